#include "physics/wave/common/periodic.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

PeriodicFunctions::PeriodicFunctions(const fem::EdgeSpace& space, int order,
                                     const std::vector<double>& phases, bool bothParts)
    : m_space(space), m_order(order), m_count(size_t(space.count(order)))
{
    if (phases.empty())
        return;
    std::vector<mesh::Mesh::Twins::Turns> turns;
    space.twins(order, m_same, turns);
    for (const auto& t : turns) {
        double phase = 0;
        for (size_t k = 0; k < phases.size(); ++k)
            phase += t[k] * phases[k];
        m_phase.push_back(phase);
    }
    constexpr double nothing = 1e-12;
    for (const double phase : phases)
        if (bothParts || std::abs(std::sin(phase)) > nothing)
            m_copies = 2;
}

void PeriodicFunctions::bind(std::vector<char>& isFree) const
{
    for (size_t i = 0; i < m_same.size(); ++i) {
        if (!isFree[i])
            isFree[size_t(m_same[i])] = 0;
        if (m_same[i] != int(i))
            isFree[i] = 0;
    }
}

fem::Numbering PeriodicFunctions::numbering(std::span<const int> functionRanks,
                                            const std::vector<char>& isFree) const
{
    fem::Numbering plain = fem::byRank(functionRanks, isFree);
    if (none())
        return plain;
    fem::Numbering out;
    const auto copies = size_t(m_copies);
    out.place.assign(copies * m_count, -1);
    for (size_t i = 0; i < m_count; ++i)
        if (const int p = plain.place[size_t(m_same[i])]; p >= 0)
            for (size_t c = 0; c < copies; ++c)
                out.place[c * m_count + i] = m_copies * p + int(c);
    for (const int f : plain.function)
        for (size_t c = 0; c < copies; ++c)
            out.function.push_back(int(c * m_count) + f);
    return out;
}

fem::CellFunctions PeriodicFunctions::functions(const std::vector<int>& table) const
{
    const mesh::Mesh& mesh = m_space.mesh();
    const int n = m_space.localCount(m_order), width = m_space.localCount(m_space.order());
    if (m_copies == 1)
        return {&mesh, width, n, table};
    fem::CellFunctions out{&mesh, 2 * n, 2 * n, {}};
    out.number.reserve(size_t(2 * n) * size_t(mesh.cellCount()));
    for (int t = 0; t < mesh.cellCount(); ++t)
        for (const int shift : {0, int(m_count)})
            for (int i = 0; i < n; ++i)
                out.number.push_back(shift + table[size_t(t) * size_t(width) + size_t(i)]);
    return out;
}

fem::ElementMatrices PeriodicFunctions::turned(const fem::ElementMatrices& plain) const
{
    if (none())
        return plain;
    const int n = m_space.localCount(m_order), cells = m_space.mesh().cellCount();
    fem::ElementMatrices out;
    out.local = m_copies * n;
    out.stride = size_t(out.local * (out.local + 1) / 2);
    out.entries.resize(out.stride * size_t(cells));
#pragma omp parallel for schedule(static)
    for (int t = 0; t < cells; ++t) {
        int number[fem::mostEdgeLocal];
        m_space.local(t, m_order, number);
        const double* from = plain.of(t);
        double* to = &out.entries[size_t(t) * out.stride];
        for (int i = 0; i < n && plain.antisymmetric; ++i)
            for (int j = 0; j < n; ++j)
                to[out.at(i, n + j)] = i < j ? -from[plain.at(i, j)] : from[plain.at(j, i)];
        if (plain.antisymmetric)
            continue;
        for (int i = 0; i < n; ++i)
            for (int j = 0; j < n; ++j) {
                const double turn = phase(number[i]) - phase(number[j]),
                             k = from[plain.at(std::min(i, j), std::max(i, j))];
                if (i <= j)
                    to[out.at(i, j)] = k * std::cos(turn);
                if (m_copies == 1)
                    continue;
                if (i <= j)
                    to[out.at(n + i, n + j)] = k * std::cos(turn);
                to[out.at(i, n + j)] = -k * std::sin(turn);
            }
    }
    return out;
}

void PeriodicFunctions::turn(fem::SideMatrix& matrix) const
{
    if (none())
        return;
    const size_t n = matrix.number.size(), all = n * size_t(m_copies);
    fem::SideMatrix out{matrix.side, matrix.number, std::vector<double>(all * all)};
    for (size_t i = 0; i < n; ++i)
        for (size_t j = 0; j < n; ++j) {
            const double turn = phase(matrix.number[i]) - phase(matrix.number[j]),
                         k = matrix.value[i * n + j];
            out.value[i * all + j] = k * std::cos(turn);
            if (m_copies == 1)
                continue;
            out.value[(n + i) * all + n + j] = k * std::cos(turn);
            out.value[i * all + n + j] = -k * std::sin(turn);
            out.value[(n + i) * all + j] = k * std::sin(turn);
        }
    if (m_copies == 2)
        for (size_t i = 0; i < n; ++i)
            out.number.push_back(int(m_count) + matrix.number[i]);
    matrix = std::move(out);
}

fem::SideLoad PeriodicFunctions::folded(const std::vector<int>& number,
                                        const std::vector<std::complex<double>>& value) const
{
    fem::SideLoad out;
    for (size_t i = 0; i < number.size(); ++i) {
        const auto v = std::polar(1.0, phase(number[i])) * value[i];
        out.number.push_back(same(number[i]));
        out.value.push_back(v.real());
        if (m_copies == 1)
            continue;
        out.number.push_back(int(m_count) + same(number[i]));
        out.value.push_back(v.imag());
    }
    return out;
}

fem::SideLoad PeriodicFunctions::folded(const fem::SideLoad& load) const
{
    return none() ? load : folded(load.number, {load.value.begin(), load.value.end()});
}

fem::SideLoad PeriodicFunctions::timesJ(const fem::SideLoad& load) const
{
    fem::SideLoad out = load;
    for (size_t i = 0; i < out.number.size(); ++i) {
        const bool imaginary = out.number[i] >= int(m_count);
        out.number[i] += imaginary ? -int(m_count) : int(m_count);
        if (imaginary)
            out.value[i] = -out.value[i];
    }
    return out;
}

std::array<std::vector<double>, 2> PeriodicFunctions::unfolded(const std::vector<double>& x) const
{
    if (none())
        return {x, {}};
    std::array<std::vector<double>, 2> out;
    for (size_t i = 0; i < m_count; ++i) {
        const auto one = size_t(m_same[i]);
        const auto v = std::polar(1.0, -m_phase[i]) *
                       std::complex<double>(x[one], m_copies == 2 ? x[m_count + one] : 0.0);
        out[0].push_back(v.real());
        out[1].push_back(v.imag());
    }
    return out;
}

}  // namespace yh::physics
