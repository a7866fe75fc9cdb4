// Networks of parts: S-parameters between the terminals of a circuit of any form, loops included.
//
// With waves a into and b out of all ports of all parts, b = S a. At a joint the waves out of one
// port go into the other, at a termination a = r b, at a terminal a is what comes from outside:
// (1 - S P) b = S e.
#pragma once

#include "network/touchstone.h"

#include <complex>
#include <functional>
#include <string>
#include <vector>

namespace yh::network {

/// What a part does at a frequency, Hz; shape (ports, ports), to row from column.
using Scattering = std::function<Eigen::MatrixXcd(double frequency)>;

struct Part
{
    std::string name;
    int ports = 2;
    Scattering S;
};

class Circuit
{
public:
    /// @returns its number
    int add(Part part);
    [[nodiscard]] const std::vector<Part>& parts() const { return m_parts; }
    /// Number of a port among all; ports count from 0.
    [[nodiscard]] int port(int part, int number) const { return m_first[size_t(part)] + number; }
    void join(int a, int b);
    void terminate(int port, std::complex<double> reflection);
    void terminal(int port);
    /// Ports of which nothing is known, by number among all.
    [[nodiscard]] std::vector<int> openPorts() const;
    /// Between the terminals in their order; to row from column.
    /// @throws Error where a loop without loss resonates at this very frequency
    [[nodiscard]] Eigen::MatrixXcd S(double frequency) const;

private:
    std::vector<Part> m_parts;
    std::vector<int> m_first;
    int m_ports = 0;
    struct End
    {
        enum class Kind { open, joined, terminated, terminal };
        Kind kind = Kind::open;
        int partner = -1;
        std::complex<double> reflection;
    };
    std::vector<End> m_ends;
    std::vector<int> m_terminals;
};

/// A guide with index n and group index at a frequency, linear between: the phase of
/// 2 pi / c (n f0 + group (f - f0)) length.
/// @param loss  amplitude that is left behind it
[[nodiscard]] Scattering guideOf(double length, double index, double group, double f0, double loss);
/// Two guides side by side: ports 0 and 1 lead straight to 2 and 3, and a share of the power
/// crosses a quarter of a period behind. No reflection.
[[nodiscard]] Scattering couplerOf(double share, double loss);
/// Port 0 to ports 1 (the share) and 2; what comes back out of step is lost. No reflection.
[[nodiscard]] Scattering splitterOf(double share, double loss);
/// A thin plane that reflects a share of the power; what goes through is a quarter of a period
/// behind.
[[nodiscard]] Scattering reflectorOf(double share);
/// The network of a file between its frequencies.
/// @param smooth  by the cubic through four of them, else by the straight line through two
[[nodiscard]] Scattering tabulated(Network network, bool smooth);
/// Largest singular value of an S-matrix: above 1 a part puts out more power than goes in.
[[nodiscard]] double gainOf(const Eigen::MatrixXcd& S);

}  // namespace yh::network
