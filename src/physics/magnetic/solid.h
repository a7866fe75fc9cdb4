// The magnetic field of solids at rest.
//
//   H = T - grad phi,   div B = 0,   B = B(H)
//
// T is a field of edge elements whose curl is the current density of all coils (winding.h), so that
// only the scalar phi is unknown. For every test function v
//
//   integral of B . grad v = 0
//
// T and grad phi are of the same family of elements, and where no current flows T is itself a
// gradient: in iron, where H is small, they cancel exactly. Flux does not leave where nothing is
// said; where it leaves at right angles (a magnetic wall, an even plane of symmetry) and far away
// neither T nor grad phi has a part along the surface. The open space is the mapped shell of
// electrostatics, in which 1/r^2, a dipole's phi, is a polynomial of second order.
// Sources: Biro and Preis, IEEE Trans. Magn. 25 (1989) 3145 (T and phi; from memory).
#pragma once

#include "physics/magnetic/winding.h"

namespace yh::physics {

class SolidModel;

/// The field of solids.
class SolidMagneticSolver : public MagneticField
{
public:
    /// Problem, mesh and partition must outlive it.
    SolidMagneticSolver(const MagneticProblem& problem, const mesh::Mesh& mesh,
                        const shape::Partition& partition, int order, base::Progress& progress);
    void sample(int cell, const Point& xi, double* values) const override;
    std::vector<SingularCorner> singularCorners() const override;
    Point fluxDensity(int order, int cell, const Point& xi, int part) const override;
    State state(int order, int cell, const Point& xi, int part) const override;
    LocalFunctional fluxAlong(const mesh::Locator::Hit& hit, const Point& direction) const override;
    double linkage(int order, int coil) const override;
    std::vector<double> inductances(int order) const override;
    [[nodiscard]] const Windings& windings() const;

private:
    Values derivativeBy(const LocalFunctional& functional, int order) const override;
    Values sourceOf(int order, int coil) const override;
    /// Visits the quadrature points of cells in which a coil's T does not vanish.
    /// @param visit  called with (cell, reference point, weight of real space, stretch)
    template <class Look>
    void overWindings(int order, Look visit) const;
    /// H in A/m.
    [[nodiscard]] Point strength(int order, int cell, const Point& xi) const;
    /// T of a coil in real space.
    [[nodiscard]] Point unit(int order, int coil, int cell, const Point& xi,
                             const shape::OpenShell::Stretch& stretch) const;

    const SolidModel* m_solid;
};

}  // namespace yh::physics
