// Inside the coupled solver only: what it keeps for each element order.
#pragma once

#include "fem/cholesky.h"
#include "fem/coupled.h"
#include "fem/potential_system.h"

#include <cstdint>

namespace yh::fem {

/// Unknowns, pattern and matrix of one order.
struct CoupledSolver::Layout
{
    int order = 1, local = 0, size = 0;
    int solved = 0;  ///< the order that spots are told, where it is another one
    std::vector<std::vector<int>> place;    ///< by field, by function: unknown or -1
    std::vector<std::vector<int>> groupOf;  ///< by field, by vertex: group or -1
    std::vector<std::vector<char>> live;    ///< by field, by function: carries a value
    const H1Space* space = nullptr;
    std::vector<int> groupPlace;  ///< unknown of a free group, -1 for a given one
    std::vector<int> fieldOf;     ///< by unknown
    std::vector<int> ownValue;  ///< by group: where its own value is among the coefficients, or -1
    struct Film
    {
        int side, group;
    };
    /// Corners where two groups with different given values meet.
    struct Jump
    {
        int field, vertex, groups[2];
    };
    std::vector<Jump> jumps;
    std::vector<Film> films;  ///< sides of the mesh that lie behind films
    std::vector<int> sides;   ///< sides of the mesh with terms
    /// By cell and pair of functions: which entry of its row; shape (cells, local, local).
    std::vector<std::uint16_t> offset;
    std::vector<std::vector<int>> own;  ///< by thread: cells with unknowns of its part only
    std::vector<int> shared;            ///< cells across parts
    /// Of cells in linear pieces, row by row: the tangent, and behind each row what the source has
    /// at the whole drive; by cell where, -1: not there yet, and whether it ever is.
    std::vector<double> linear;
    std::vector<std::ptrdiff_t> linearAt;
    std::vector<double> linearTangent;  ///< what these cells have in J; empty: not there yet
    std::vector<char> isWorkedOut;
    SparseRows J;
    std::vector<double> R, groupFlow;
    std::vector<double> weight;           ///< of each equation, for iterations; empty: all alike
    double scale[mostFields] = {0, 0};    ///< sum of absolute cell flows
    double seen[mostFields] = {0, 0};     ///< largest of these so far
    double largest[mostFields] = {0, 0};  ///< largest value of each field so far
    Lu lu;
    std::unique_ptr<Cholesky> cholesky;  ///< in its place, where tangents are symmetric
    bool isFactored = false;             ///< that of J as it stands
    bool hasFactor = false;              ///< that of J or of an earlier one
    Multilevel levels;
    std::vector<int> coarse;  ///< by unknown: its field where it is of order 1, else -1
    std::vector<char> pairs;  ///< whether an unknown and the next are parts of one complex value
    bool iterative = false;
    std::unique_ptr<BasisTable> table;
    bool isTangent = false;  ///< J is the tangent at the steady state, and levels are set up for it
    double tangentDt = -1;   ///< step that the factorised tangent of a stage is for
    bool renew = false;      ///< that tangent has become slow
    /// Of a linear model, on the pattern of J: by the fields, and by their rates.
    std::vector<double> K, M;
    SparseSymmetric stage;  ///< K + M / dt, where it is symmetric
    std::unique_ptr<PotentialSystem> stageSystem;
    Values reference;
    std::vector<double> flowAtReference;
    int segment = -1;
};

}  // namespace yh::fem
