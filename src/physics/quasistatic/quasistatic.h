// Slowly alternating field in media that conduct and polarise (electroquasistatic).
//
//   div((sigma + j omega eps) grad V) = 0,   eps = eps' (1 - j tan delta)
//
// with a complex potential V exp(j omega t) of peak values, as two real fields that act on each
// other. Valid while the device is small against the wavelength and the skin depth (Jackson,
// Classical Electrodynamics, 3rd ed., section 5.18, from memory). Not covered: magnetic induction,
// dispersion, anisotropy.
#pragma once

#include "fem/coupled.h"
#include "physics/common/solution.h"
#include "shape/partition.h"
#include "sheet/model.h"

#include <complex>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace yh::physics {

/// Conductivity and permittivity of a piece at the frequency: S/m, both parts.
struct Admittivity
{
    double real = 0, imaginary = 0;
    std::function<std::complex<double>(Point)> at;  ///< instead, where it depends on place
    [[nodiscard]] std::complex<double> value(const Point& p) const
    {
        return at ? at(p) : std::complex(real, imaginary);
    }
};

class QuasistaticProblem : public fem::CoupledModel
{
public:
    fem::Measure area = fem::Measure::plane;
    double scale = 1.0;      ///< depth times the number of images
    double oddShare = 1.0;   ///< of the scale, for what lies on one side of an odd plane
    int oddPlane = -1;       ///< group of the odd planes, its real part
    double frequency = 0.0;  ///< Hz
    std::vector<Admittivity> pieces;
    std::vector<char> conducts;  ///< by piece
    std::vector<int> activePieces;
    struct Contact
    {
        std::string name;
        int line = -1;
        bool byCurrent = false;
        int group = -1;       ///< of the real part, that of the imaginary part follows
        double value = 0;     ///< V or A
        bool behind = false;  ///< lies beyond an odd plane
        int mate = -1;        ///< the contact before the plane that it mirrors
    };
    std::vector<Contact> contacts;
    std::vector<fem::Group> groupList;
    /// A thin layer that carries current along a side.
    struct Sheet
    {
        double thickness = 0;
        Admittivity what;
        int line = -1;
    };
    std::map<int, std::vector<Sheet>> sides;  ///< by side of the partition
    /// Conductance by area between touching regions, S/m^2, by side of the partition.
    std::map<int, double> joints;

    [[nodiscard]] int contactOf(const std::string& name) const;
    int fieldCount() const override { return 2; }
    fem::Measure measure() const override { return area; }
    bool active(int, int piece) const override { return conducts[size_t(piece)] != 0; }
    const std::vector<fem::Group>& groups() const override { return groupList; }
    void terms(const fem::PointState& state, fem::PointTerms& terms) const override;
    bool hasTerms(int side) const override { return sides.count(side) > 0; }
    bool carries(int, int side) const override { return sides.count(side) > 0; }
    void sideTerms(int side, const fem::PointState& state, fem::PointTerms& terms) const override;
    double jump(int, int side) const override
    {
        const auto it = joints.find(side);
        return it == joints.end() ? 0.0 : it->second;
    }
    double start(int) const override { return 0; }
    bool isOneComplexField() const override { return true; }
    bool scalesWithDrive(int) const override { return true; }
};

/// Reads materials, contacts and the frequency from the sheet.
/// @param[out] faults  everything that is missing or wrong, each at its line
[[nodiscard]] std::unique_ptr<QuasistaticProblem> defineQuasistatic(
    const sheet::Model& model, const shape::Partition& partition, base::Faults& faults);

class QuasistaticSolver : public Solution
{
public:
    QuasistaticSolver(const QuasistaticProblem& problem, const mesh::Mesh& mesh,
                      const shape::Partition& partition, int order, base::Progress& progress);
    void solve(int lowestOrder, base::Progress& progress) override;
    const mesh::Mesh& mesh() const override { return m_mesh; }
    int order() const override { return m_space.order(); }
    Counters counters() const override { return m_counters; }
    const std::vector<Quantity>& quantities() const override { return m_quantities; }
    void sample(int cell, const Point& xi, double* values) const override;
    std::vector<double> indicator(bool allDrives) const override;
    std::vector<double> dualIndicator(const LocalFunctional&) override { return indicator(false); }
    double geometryError() const override;
    std::vector<SingularCorner> singularCorners() const override;

    [[nodiscard]] const QuasistaticProblem& problem() const { return m_problem; }
    /// Complex peak voltage of a contact and peak current into the device, whole.
    struct ContactResult
    {
        std::complex<double> voltage, current;
    };
    [[nodiscard]] ContactResult contact(int order, int index) const;
    /// Mean power turned into heat in pieces, W, whole.
    [[nodiscard]] double power(int order, const std::vector<int>& pieces) const;
    /// The same in sheets of lines.
    [[nodiscard]] double sheetPower(int order, const std::vector<int>& lines) const;
    /// The same in films and in resistances between regions.
    [[nodiscard]] double contactPower(int order) const;
    /// Mean power by volume at a place, W/m^3.
    [[nodiscard]] double lossDensity(int order, int cell, const Point& xi) const;
    /// Half of the mean power by area of a resistance between regions, seen from one of them,
    /// W/m^2.
    [[nodiscard]] double jointLoss(const fem::Spot& spot) const;
    /// Mean power by area that a sheet turns into heat at a place of its side, W/m^2.
    [[nodiscard]] double sheetLoss(const QuasistaticProblem::Sheet& sheet,
                                   const fem::Spot& spot) const;
    /// Current out of odd planes into the modelled part, A.
    [[nodiscard]] std::complex<double> planeCurrent(int order) const;
    /// Corners where E has no limit.
    [[nodiscard]] static std::vector<SingularCorner> corners(const QuasistaticProblem& problem,
                                                             const mesh::Mesh& mesh,
                                                             const shape::Partition& partition);

private:
    struct Solved
    {
        int order = 0;
        fem::CoupledSolver::Values u;
        std::vector<fem::CoupledSolver::GroupResult> groups;
    };
    [[nodiscard]] const Solved& at(int order) const;
    struct Gradient
    {
        Point real, imaginary;
        [[nodiscard]] double square() const { return dot(real, real) + dot(imaginary, imaginary); }
    };
    [[nodiscard]] Gradient gradient(const Solved& s, int cell, const Point& xi) const;
    /// Calls visit(cell, xi, place, unit normal, weight) at the points of a side of the partition.
    template <class Visit>
    void overSide(int order, int side, Visit visit) const;

    const QuasistaticProblem& m_problem;
    std::unique_ptr<const mesh::Mesh> m_cut;  ///< where regions meet through a resistance
    const mesh::Mesh& m_mesh;
    std::multimap<int, int> m_across;  ///< cells that meet there, by either of them
    const shape::Partition& m_partition;
    fem::H1Space m_space;
    fem::CoupledSolver m_coupled;
    std::vector<Solved> m_solved;
    std::vector<Quantity> m_quantities;
    Counters m_counters;
};

}  // namespace yh::physics
