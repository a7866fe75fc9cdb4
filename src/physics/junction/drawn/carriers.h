// Electrons and holes in a drawing, in the plane or round an axis: Poisson's and both continuity
// equations between ohmic contacts.
//
//   div(eps grad V) = -q (p - n + N),   div Jn = q (R - G),   div Jp = -q (R - G),
//   Jn = q mu_n (n E + Vt grad n),      Jp = q mu_p (p E - Vt grad p)
//
// on boxes about the crossings of lines, with fluxes along the lines that are exact for a constant
// field and flux (Scharfetter and Gummel 1969). Unknowns are the potential and both quasi-Fermi
// levels, each as its distance from the level of the contact that its carriers come from: a flux is
// then a small number times the difference of two small ones, so that leakage is not lost in the
// cancelling of drift and diffusion, in plain double precision. Steps of Newton's method are taken
// in the densities, in which the equations are nearly linear.
#pragma once

#include "base/point.h"
#include "fem/fronts.h"
#include "physics/junction/conditions.h"

#include <array>
#include <functional>
#include <map>
#include <memory>
#include <string>
#include <vector>

namespace yh::physics {

using base::Point;

struct CarrierProblem : JunctionConditions
{
    /// Dopants, everywhere in a region or about a line.
    struct Doping
    {
        double donors = 0, acceptors = 0;  ///< 1/m^3
        double fall = 0;                   ///< m, to 1/e of the largest value; 0: everywhere
        Point from, to;                    ///< where it is largest
        /// Share of the largest value at a place.
        [[nodiscard]] double at(const Point& p) const;
    };
    struct Region
    {
        std::vector<std::vector<Point>> outlines;  ///< closed, m
        std::vector<Doping> doping;
        Lifetimes life;
        double electronMobility = 0, holeMobility = 0;  ///< m^2/(V s); 0: by the doping
        double generation = 0;                          ///< 1/(m^3 s)
        [[nodiscard]] bool contains(const Point& p) const;
        [[nodiscard]] std::array<double, 2> dopants(const Point& p) const;  ///< donors, acceptors
        [[nodiscard]] double net(const Point& p) const;
    };
    struct Contact
    {
        std::string name;
        double voltage = 0;
        std::vector<std::array<Point, 2>> parts;  ///< straight, m
    };
    std::vector<Region> regions;
    std::vector<Contact> contacts;
    int swept = 0;  ///< the contact whose voltage the curves run over
    bool aboutAxis = false;
    double depth = 1;  ///< m, of drawings in the plane
    Point low, high;   ///< the frame, m

    [[nodiscard]] int regionAt(const Point& p) const;  ///< -1: none
    /// Width of the depleted zone about an abrupt junction at the largest voltage of the curves, m.
    /// @param a, b  net doping on both sides, 1/m^3
    [[nodiscard]] double depleted(double a, double b) const;
};

/// A straight piece of what is worth a close look: a junction, the line of a profile.
struct CarrierDetail
{
    Point from, to;
    double reach = 0;  ///< m, to either side
};
[[nodiscard]] std::vector<CarrierDetail> carrierDetails(const CarrierProblem& problem);

/// Places of grid lines along x or y, finer about junctions, ends of contacts and edges of doping.
/// @param fineness  cells become smaller by it
[[nodiscard]] std::array<std::vector<double>, 2> carrierLines(const CarrierProblem& problem,
                                                              double fineness);

/// Which carrier, where both are told apart by number.
inline constexpr int electrons = 0, holes = 1;

class CarrierGrid : public JunctionGrid
{
public:
    /// @throws Error 7732: no place of the grid lies in a semiconductor or on a contact
    CarrierGrid(const CarrierProblem& problem, double fineness);

    [[nodiscard]] double current(double bias, base::Progress& progress) const override;
    [[nodiscard]] double unevenness(double bias, base::Progress& progress) const override;
    [[nodiscard]] double holeCharge(double bias, base::Progress& progress) const override;
    [[nodiscard]] double builtIn(base::Progress& progress) const override;
    [[nodiscard]] int size() const override { return int(m_nodes.size()); }
    /// Current into a contact, A.
    [[nodiscard]] double currentOf(size_t contact, double bias, base::Progress& progress) const;

    /// What there is at a place: potential, conduction and valence band, both quasi-Fermi levels,
    /// V; n and p, 1/m^3; current density along both directions, A/m^2.
    using Values = std::array<double, 9>;
    [[nodiscard]] Values at(const Point& p, double bias, base::Progress& progress) const;
    [[nodiscard]] std::array<size_t, 2> lines() const { return {m_x.size(), m_y.size()}; }

private:
    struct State
    {
        double bias = 0, strength = 1;  ///< strength: of what is held and generated
        /// By node, over the thermal voltage; levels as distances from their references.
        std::vector<double> psi, electrons, holes;
    };
    struct Node
    {
        Point at;
        int column = 0, row = 0;
        int contact = -1;
        double net = 0;         ///< over the scale
        double volume = 0;      ///< m^3
        double generation = 0;  ///< by time, over the scale, in its volume
        struct Part
        {
            Lifetimes life;
            double volume = 0;
        };
        std::vector<Part> parts;
        int source[2] = {-1, -1};  ///< contacts that electrons and holes come from
    };
    struct Edge
    {
        int from = 0, to = 0;
        double electrons = 0, holes = 0;  ///< mobility times face over length
        double field = 0;                 ///< face over length
        double face = 0;                  ///< m^2
    };
    /// A flux from the second place into the first, over the scale, with its slopes.
    struct Flux
    {
        double value = 0, byFrom = 0, byTo = 0;  ///< by relative changes of the densities
        double byPsi = 0;                        ///< by the difference of psi
    };
    void makeNodes();
    int gatherQuarters(Node& n) const;
    void findContact(Node& n, double tiny, double reach) const;
    void makeEdges();
    void findSources();
    void addFaces(const Node& n, int axis, double length, Edge& e) const;
    /// Values as they are stated, of potentials by the thermal voltage.
    [[nodiscard]] Values stated(double psi, const double* levels, const double* J) const;
    void eliminationOrder();
    void pattern();
    /// Voltage of a contact over the thermal one.
    [[nodiscard]] double voltage(const State& s, int contact) const;
    [[nodiscard]] double reference(const State& s, int node, int carrier) const
    {
        return voltage(s, m_nodes[size_t(node)].source[carrier]);
    }
    [[nodiscard]] double density(const State& s, int node, int carrier) const;
    [[nodiscard]] Flux flux(const State& s, const Edge& e, int carrier) const;
    void setContacts(State& s) const;
    [[nodiscard]] State equilibrium() const;
    [[nodiscard]] bool solve(State& s) const;
    void addNodes(const State& s) const;
    void apply(State& s, double damp) const;
    /// Assembles the matrix of a step and minus what is left of the equations.
    void assemble(const State& s) const;
    /// A guess for a state whose bias or strength was changed.
    /// @param before  an earlier state on the way; null: there is none
    void predict(State& next, const State& s, const State* before) const;
    struct Path
    {
        double length = 0, first = 0, largest = 0, least = 0;  ///< and steps
        std::function<void(State& next, double done)> set;
    };
    [[nodiscard]] State follow(State s, const State* before, const Path& path,
                               base::Progress& progress) const;
    [[nodiscard]] State unbiased(base::Progress& progress) const;
    [[nodiscard]] const State& at(double bias, base::Progress& progress) const;
    void add(int row, int column, double value) const;
    /// Current density at all nodes, A/m^2.
    [[nodiscard]] std::vector<std::array<double, 2>> densities(const State& s) const;

    const CarrierProblem& m_problem;
    std::vector<double> m_x, m_y;  ///< m
    std::vector<int> m_node;       ///< by crossing, row by row; -1: none there
    std::vector<Node> m_nodes;
    std::vector<Edge> m_edges;
    std::vector<int> m_place;  ///< by node: in the order of elimination
    double m_scale = 1, m_ni = 0, m_poisson = 0;
    mutable fem::SparseRows m_matrix;
    mutable std::vector<double> m_right;
    std::vector<int> m_blocks;  ///< first places of what is eliminated together
    std::unique_ptr<fem::Fronts> m_fronts;
    mutable std::map<double, State> m_states;
    mutable std::map<double, std::vector<std::array<double, 2>>> m_densities;
};

}  // namespace yh::physics
