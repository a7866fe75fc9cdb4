// Thin wires among the unknowns of driven waves.
#include "physics/common/constants.h"
#include "physics/wave/driven/driven.h"

#include <map>

namespace yh::physics {

namespace {

/// Currents need one degree more than the field: their slope is the charge that it answers to.
constexpr int degreeAbove = 1;

}  // namespace

WireCurrents WaveDrivenSolver::wireCurrents(int order) const
{
    return {m_problem.wires, order + degreeAbove};
}

std::vector<WireCurrents::Product> WaveDrivenSolver::joinWires(int order, fem::Numbering& numbering,
                                                               fem::SymmetricFamily& family) const
{
    const WireCurrents currents = wireCurrents(order);
    const int first = family.size, functions = m_space.count(order);
    for (int i = 0; i < currents.count(); ++i) {
        numbering.place.push_back(first + i);
        numbering.function.push_back(functions + i);
    }
    auto termOf = [this](Part part) {
        return size_t(std::find(m_parts.begin(), m_parts.end(), part) - m_parts.begin());
    };
    std::vector<fem::FamilyEntry> entries;
    auto products = currents.products(m_space, order);
    for (const auto& p : products)
        if (const int at = numbering.place[size_t(p.function)]; at >= 0)
            entries.push_back({first + p.current, at, termOf(wireLinear), p.value});
    const auto& m = currents.matrices((m_problem.low + m_problem.high) / 2);
    auto add = [&](Part part, const Eigen::MatrixXd& values) {
        if (const size_t term = termOf(part); term < m_parts.size())
            for (int j = 0; j < currents.count(); ++j)
                for (int i = j; i < currents.count(); ++i)
                    if (values(i, j) != 0)
                        entries.push_back({first + i, first + j, term, values(i, j)});
    };
    add(wireConstant, m.constant);
    add(wireSquare, m.square);
    add(wireFourth, m.fourth);
    add(wireMedium, m.medium);
    add(wireMetal, m.metal);
    fem::append(family, currents.count(), m_parts.size(), std::move(entries));
    return products;
}

void WaveDrivenSolver::findWires(const std::vector<WireCurrents::Product>& products, int order,
                                 Walls& walls) const
{
    std::map<int, const std::vector<Walls::Touch>*> touchesOf;
    for (const auto& [cell, touches] : walls.cells)
        touchesOf[cell] = &touches;
    int number[fem::mostEdgeLocal];
    for (const auto& p : products) {
        const auto it = touchesOf.find(p.cell);
        if (it == touchesOf.end())
            continue;
        m_space.local(p.cell, order, number);
        for (const auto& touch : *it->second) {
            if (number[touch.local] != p.function)
                continue;
            auto row = p;
            row.function = touch.place;
            row.value = touch.first * p.value;
            walls.wires.push_back(row);
            row.function += walls.products.size;
            row.value = (1 - touch.first) * p.value;
            if (touch.first != 1)
                walls.wires.push_back(row);
        }
    }
}

std::complex<double> WaveDrivenSolver::wireImpedance(double f) const
{
    for (const auto& s : m_problem.wires.segments)
        if (s.sigma > 0) {
            const auto& wires = m_problem.wires;
            const double M = smoothing(2 * pi * f / c0 * wires.smooth * std::sqrt(wires.medium()));
            return insideImpedance(s.radius, s.sigma, f) * M * M;
        }
    return 0;
}

fem::NextOrder::Part WaveDrivenSolver::wireRows(const fem::EdgeSpace& space, const Model& model,
                                                size_t functions, int first) const
{
    const WireCurrents currents = wireCurrents(model.order);
    fem::NextOrder::Part part;
    part.own.assign(functions, 0.0F);
    part.rows.assign(functions * model.basis.size(), 0.0F);
    const auto before = size_t(m_space.count(model.order));
    for (const auto& p : currents.products(space, model.order + 1, first))
        for (size_t k = 0; k < model.basis.size(); ++k)
            part.rows[size_t(p.function - first) * model.basis.size() + k] +=
                float(p.value * model.basis[k][before + size_t(p.current)]);
    return part;
}

}  // namespace yh::physics
