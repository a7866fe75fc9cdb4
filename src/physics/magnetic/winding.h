// The currents of coils in a mesh of solids.
//
// Turns lie side by side and spread evenly over the cross-section of their winding: of all currents
// that stay in it and come back in themselves, the one of even density along the bar is that of a
// conductor whose resistivity is the field strength itself, div (grad u / |grad u|) = 0, found by
// repetition from an even conductor. Its flux through the faces of cells is exact (elements that
// are continuous in the middles of faces); inside cells it is the best fit to a smooth field.
//
// What a solver needs is not the current density but a field T with curl T = J for one ampere in
// each turn: from fluxes by a tree of edges, with the functions of higher order added inside the
// winding. H differs from it by a gradient alone.
// Sources: Marini, SIAM J. Numer. Anal. 22 (1985) 493 (fluxes of elements continuous in the
// middle); Biro, Preis, Vrisk, Richter and Ticar, IEEE Trans. Magn. 29 (1993) 1329 (T as edge
// elements; both from memory).
#pragma once

#include "fem/edge.h"
#include "physics/magnetic/magnetic.h"

#include <algorithm>

namespace yh::physics {

class Windings
{
public:
    /// @throws Error at the coil: its current cannot close, has several ways, or does not turn as
    ///         said
    Windings(const MagneticProblem& problem, const mesh::Mesh& mesh,
             const shape::Partition& partition, int order, base::Progress& progress);

    /// Whether a T does not vanish in a cell.
    [[nodiscard]] bool touches(int cell) const { return m_touches[size_t(cell)] != 0; }
    /// T of one ampere in each turn of a coil, 1/m, by the drawing's lengths.
    /// @param order  of the potential that goes with it
    [[nodiscard]] Point at(int coil, int order, int cell, const Point& xi) const
    {
        return m_space.at(m_T[size_t(coil)], std::min(order, m_space.order()), cell, xi).value;
    }
    /// The same of all coils with their currents, A/m.
    [[nodiscard]] Point ofCurrents(int order, int cell, const Point& xi) const
    {
        return m_space.at(m_driven, std::min(order, m_space.order()), cell, xi).value;
    }
    /// Length of the mean turn in the modelled part, m, and area of the whole cross-section, m^2.
    struct Bar
    {
        double length = 0, area = 0;
    };
    [[nodiscard]] const Bar& bar(int coil) const { return m_bars[size_t(coil)]; }

private:
    fem::EdgeSpace m_space;
    std::vector<std::vector<double>> m_T;  ///< by coil, shape (m_space.count())
    std::vector<double> m_driven;
    std::vector<char> m_touches;
    std::vector<Bar> m_bars;
};

}  // namespace yh::physics
