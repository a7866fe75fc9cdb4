// Magnetisation curves: B over H of steels and of magnets, from tables as data sheets print them.
#pragma once

#include <string>
#include <vector>

namespace yh::physics {

/// One curve H(B), strictly rising, with a continuous slope.
///
/// Between the points of the table it is a monotone cubic (Fritsch and Carlson, SIAM J. Numer.
/// Anal. 17 (1980) 238, from memory); beyond its ends it goes on straight, upwards with the slope
/// of vacuum, where the polarisation no longer rises. A curve that begins at B = 0 is odd: H(-B) is
/// -H(B).
class MagneticCurve
{
public:
    struct Pair
    {
        double H = 0, B = 0;  ///< A/m, T
    };
    /// @param pairs  in any order
    /// @throws Error (2071, no place): too few points, not rising, or slower than in vacuum
    explicit MagneticCurve(std::vector<Pair> pairs);

    /// H in A/m at B in T.
    [[nodiscard]] double field(double B) const;
    /// B in T at H in A/m.
    [[nodiscard]] double density(double H) const;
    /// dH/dB, m/H.
    [[nodiscard]] double slope(double B) const;
    /// Integral of H over B from the state without field, J/m^3.
    [[nodiscard]] double energy(double B) const;
    /// B at H = 0, T.
    [[nodiscard]] double remanence() const { return m_remanence; }
    /// dB/dH where H = 0, H/m.
    [[nodiscard]] double recoil() const { return 1 / slope(m_remanence); }
    /// Where the polarisation has fallen to nine tenths of the remanence: common practice, no
    /// source. Not a number where the table ends before.
    [[nodiscard]] Pair knee() const { return m_knee; }
    [[nodiscard]] bool isOdd() const { return m_odd; }
    /// Last points of the table, T.
    [[nodiscard]] double lowest() const { return m_B.front(); }
    [[nodiscard]] double highest() const { return m_B.back(); }

private:
    struct At
    {
        size_t piece;
        double s, h;  ///< place in the piece from 0 to 1, its length in T
    };
    [[nodiscard]] At at(double B) const;
    [[nodiscard]] double integral(double B) const;  ///< from the first point

    std::vector<double> m_H, m_B, m_slope, m_sum;
    bool m_odd = false;
    double m_remanence = 0, m_zero = 0, m_beyond = 0;
    Pair m_knee;
};

/// Reads a table such as "H (kA/m), B (T): -900, 0.12; -450, 0.66; 0, 1.21". Of the two quantities
/// one is B, J or M and the other H or mu0 H; numbers may be parted by anything.
/// @throws Error (2070, no place): what cannot be read
[[nodiscard]] std::vector<MagneticCurve::Pair> readMagneticTable(const std::string& text);

}  // namespace yh::physics
