// Walls of metal in driven waves: their functions, and which side of a sheet gives what.
#include "physics/common/constants.h"
#include "physics/wave/driven/driven.h"

#include <algorithm>
#include <map>

namespace yh::physics {

std::vector<char> WaveDrivenSolver::freeFunctions(const fem::EdgeSpace& space, int order,
                                                  std::span<const int> walls,
                                                  const PeriodicFunctions& periodic) const
{
    std::vector<char> isFree(size_t(space.count(order)), m_carrying.empty());
    int number[fem::mostEdgeLocal];
    for (size_t t = 0; t < m_carrying.size(); ++t) {
        if (!m_carrying[t])
            continue;
        space.local(int(t), order, number);
        for (int i = 0; i < space.localCount(order); ++i)
            isFree[size_t(number[i])] = 1;
    }
    for (const int s : walls)
        for (const int i : space.onSide(s, order))
            isFree[size_t(i)] = 0;
    periodic.bind(isFree);
    return isFree;
}

int WaveDrivenSolver::cellBeside(int side) const
{
    const auto& cells = m_mesh.sideCells[size_t(side)];
    return cells[1] >= 0 && !m_carrying.empty() && !m_carrying[size_t(cells[0])] ? cells[1]
                                                                                 : cells[0];
}

WaveDrivenSolver::Walls WaveDrivenSolver::wallsOf(int order,
                                                  const std::vector<std::vector<int>>& metal,
                                                  std::span<const int> ranks,
                                                  const PeriodicFunctions& periodic) const
{
    Walls w;
    std::vector<char> onWall(size_t(m_space.count(order)), 0);
    std::vector<fem::SideMatrix> all;
    const double middle = (m_problem.low + m_problem.high) / 2;
    for (size_t k = 0; k < metal.size(); ++k) {
        // Several metals differ by a factor that hardly changes over the band.
        auto resistance = [&](size_t wall) {
            return m_problem.walls[size_t(m_lossWalls[wall])].resistance(middle);
        };
        for (auto& s : fem::sideMass(m_space, order, metal[k], m_problem.measure)) {
            for (const int i : s.number)
                onWall[size_t(i)] = 1;
            for (double& v : s.value)
                v *= resistance(0) / resistance(k);
            periodic.turn(s);
            all.push_back(std::move(s));
        }
    }
    // Here a function counts wherever one of its twins does.
    for (size_t i = 0; i < onWall.size(); ++i)
        if (const auto one = size_t(periodic.same(int(i))); one != i && onWall[i]) {
            onWall[one] = 1;
            onWall[i] = 0;
        }
    w.numbering = periodic.numbering(m_space.functionRanks(order, ranks), onWall);
    w.products = fem::sumOf(all, w.numbering);
    if (w.products.size > 0) {
        w.factor.analyse(w.products);
        w.factor.factorise(w.products);
        findTouches(order, metal, periodic, w);
    }
    return w;
}

void WaveDrivenSolver::findTouches(int order, const std::vector<std::vector<int>>& metal,
                                   const PeriodicFunctions& periodic, Walls& w) const
{
    auto centreOf = [this](int t) {
        const mesh::Geometry g(m_mesh, t);
        return g.at(g.centre());
    };
    auto carries = [this](int t) {
        return t >= 0 && (m_carrying.empty() || m_carrying[size_t(t)]);
    };
    // Which way the first side lies at every function with field on both sides, and how many sides
    // of the mesh meet there.
    struct Sheet
    {
        Point at, towards;
        int sides = 0;
    };
    std::map<int, Sheet> sheets;
    std::vector<char> atEnd(size_t(m_space.count(order)), 0);  // where the device ends
    for (int s = 0; s < m_mesh.sideCount(); ++s)
        if (m_mesh.sideCells[size_t(s)][1] < 0)
            for (const int i : m_space.onSide(s, order))
                atEnd[size_t(i)] = 1;
    for (const auto& list : metal)
        for (const int s : list) {
            const auto& cells = m_mesh.sideCells[size_t(s)];
            if (!carries(cells[0]) || !carries(cells[1]))
                continue;
            const auto& side = m_partition.sides()[size_t(m_mesh.sideTag[size_t(s)])];
            const mesh::Geometry g(m_mesh, cells[0]);
            const int k = m_mesh.localSide(cells[0], s);
            const Point middle = g.onSide(k, {1.0 / 3, 1.0 / 3}), out = g.outward(k, middle);
            // The first side is that of the first region, or before the sheet's own normal.
            const bool inFirst = m_mesh.piece[size_t(cells[0])] != m_mesh.piece[size_t(cells[1])]
                                     ? m_mesh.piece[size_t(cells[0])] == side.pieces[0]
                                 : m_mesh.dimension == 3 ? dot(out, side.normal) < 0
                                                         : out.x + 0.618 * out.y < 0;
            for (const int i : m_space.onSide(s, order)) {
                Sheet& sheet = sheets[i];
                sheet.at = g.at(middle);
                sheet.towards = inFirst ? -1.0 * out : out;
                ++sheet.sides;
            }
        }
    w.twoSided = !sheets.empty();
    w.isTwoSided.assign(size_t(w.products.size), 0);
    for (const auto& [i, sheet] : sheets)
        for (int part = 0; part < periodic.copies(); ++part)
            w.isTwoSided[size_t(w.numbering.place[size_t(i)] + part)] = 1;
    int number[fem::mostEdgeLocal];
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        if (!carries(t))
            continue;
        m_space.local(t, order, number);
        std::vector<Walls::Touch> touches;
        for (int i = 0; i < m_space.localCount(order); ++i) {
            const int place = w.numbering.place[size_t(number[i])];
            if (place < 0)
                continue;
            double first = 1;
            if (const auto it = sheets.find(number[i]); it != sheets.end()) {
                const Sheet& sheet = it->second;
                // Round the rim of a sheet both sides are one, and share what flows there.
                const bool isRim = m_mesh.dimension == 3 && sheet.sides == 1 &&
                                   !atEnd[size_t(number[i])] && isOnEdge(number[i], order);
                first = isRim ? 0.5 : dot(centreOf(t) - sheet.at, sheet.towards) > 0 ? 1 : 0;
            }
            touches.push_back({i, place, first});
        }
        if (!touches.empty())
            w.cells.emplace_back(t, std::move(touches));
    }
    w.portShare.resize(m_problem.ports.size());
    if (!w.twoSided)
        return;
    std::map<int, const std::vector<Walls::Touch>*> ofCell;
    for (const auto& [t, touches] : w.cells)
        ofCell[t] = &touches;
    for (size_t p = 0; p < m_problem.ports.size(); ++p) {
        const auto& sides = m_problem.ports[p].sides;
        std::map<int, int> count;
        for (int s = 0; s < m_mesh.sideCount(); ++s) {
            const int t = cellBeside(s);
            if (std::find(sides.begin(), sides.end(), m_mesh.sideTag[size_t(s)]) == sides.end() ||
                !ofCell.count(t))
                continue;
            for (const int i : m_space.onSide(s, order))
                for (const Walls::Touch& touch : *ofCell[t])
                    if (touch.place == w.numbering.place[size_t(i)]) {
                        w.portShare[p][touch.place] += touch.first;
                        ++count[touch.place];
                    }
        }
        for (auto& [place, share] : w.portShare[p])
            share /= count[place];
    }
}

double* WaveDrivenSolver::sheetEntries(int t)
{
    int& block = m_sheets.block[size_t(t)];
    if (block == 0) {
        block = int(m_sheets.entries.size() / m_sheets.stride);
        m_sheets.entries.resize(m_sheets.entries.size() + m_sheets.stride, 0.0);
    }
    return &m_sheets.entries[size_t(block) * m_sheets.stride];
}

void WaveDrivenSolver::findSheets()
{
    const int order = m_space.order(), n = m_space.localCount(order);
    m_sheets.local = n;
    m_sheets.stride = size_t(n * (n + 1) / 2);
    m_sheets.block.assign(size_t(m_mesh.cellCount()), 0);
    m_sheets.entries.assign(m_sheets.stride, 0.0);
    std::vector<int> number(static_cast<size_t>(n));
    for (const ResistiveSheet& sheet : m_problem.sheets) {
        std::vector<int> sides;
        for (int s = 0; s < m_mesh.sideCount(); ++s)
            if (std::find(sheet.sides.begin(), sheet.sides.end(), m_mesh.sideTag[size_t(s)]) !=
                sheet.sides.end())
                sides.push_back(s);
        for (const auto& own : fem::sideMass(m_space, order, sides, m_problem.measure)) {
            const int t = cellBeside(own.side);
            const auto piece = size_t(m_mesh.piece[size_t(t)]);
            const double admittance = sheet.resistance > 0
                                          ? mu0 * c0 / sheet.resistance
                                          : std::sqrt(m_problem.eps[piece].constant.xx *
                                                      m_problem.inverseMu[piece].constant.xx);
            double* to = sheetEntries(t);
            m_space.local(t, order, number.data());
            const size_t count = own.number.size();
            std::vector<int> place;
            for (const int i : own.number)
                place.push_back(int(std::find(number.begin(), number.end(), i) - number.begin()));
            for (size_t i = 0; i < count; ++i)
                for (size_t j = 0; j < count; ++j)
                    if (place[i] <= place[j])
                        to[m_sheets.at(place[i], place[j])] +=
                            admittance * own.value[i * count + j];
        }
    }
}

bool WaveDrivenSolver::isOnEdge(int function, int order) const
{
    // Those of edges come first in every order.
    for (int p = order; p >= 1; --p) {
        const int start = p == 1 ? 0 : m_space.count(p - 1);
        if (function >= start)
            return function - start < m_mesh.edgeCount();
    }
    return false;
}

}  // namespace yh::physics
