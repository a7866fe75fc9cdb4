// Stages of steps in time of the coupled solver.
#include "base/clock.h"
#include "fem/coupled_layout.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::fem {

void CoupledSolver::symmetricStage(Layout& l, double dt) const
{
    // Rows of a symmetric matrix from the diagonal on are the columns of its lower triangle.
    SparseSymmetric& A = l.stage;
    const auto size = size_t(l.size);
    if (A.size != l.size) {
        A.size = l.size;
        A.start.assign(1, 0);
        A.row.clear();
        for (size_t r = 0; r < size; ++r) {
            for (int k = l.J.start[r]; k < l.J.start[r + 1]; ++k)
                if (l.J.column[size_t(k)] >= int(r))
                    A.row.push_back(l.J.column[size_t(k)]);
            A.start.push_back(int(A.row.size()));
        }
        A.value.resize(A.row.size());
    }
#pragma omp parallel for schedule(static)
    for (size_t r = 0; r < size; ++r) {
        // The part from the diagonal on is the end of the row.
        const int count = A.start[r + 1] - A.start[r], from = l.J.start[r + 1] - count;
        for (int i = 0; i < count; ++i)
            A.value[size_t(A.start[r] + i)] =
                dt > 0 ? l.K[size_t(from + i)] + l.M[size_t(from + i)] / dt
                       : l.J.value[size_t(from + i)];
    }
}

bool CoupledSolver::linearStage(Layout& l, int order, Values& u, const Stage& time,
                                NewtonReport& report)
{
    // F(u) = F(ref) + K (u - ref) while the drives stay as they are; storage is M u.
    const int segment = m_model.segmentAt(time.time);
    double start = base::seconds();
    if (l.K.empty()) {
        assemble(l, order, u, 1.0, {nullptr, nullptr, 0, 0, time.time}, true);
        l.K = l.J.value;
        assemble(l, order, u, 1.0, {&u, nullptr, 0, 1.0, time.time}, true);
        l.M = l.J.value;
        for (size_t k = 0; k < l.M.size(); ++k)
            l.M[k] -= l.K[k];
        l.segment = -1;
        l.tangentDt = -1;
    }
    if (l.segment != segment || m_model.drifts()) {
        assemble(l, order, u, 1.0, {nullptr, nullptr, 0, 0, time.time}, false);
        l.flowAtReference = l.R;
        l.reference = u;
        l.segment = segment;
    }
    const auto size = size_t(l.size);
    std::vector<double> away(size, 0.0), change(size, 0.0), r = l.flowAtReference;
    for (size_t f = 0; f < u.size(); ++f)
        for (size_t i = 0; i < u[f].size(); ++i)
            if (const int p = l.place[f][i]; p >= 0) {
                away[size_t(p)] = u[f][i] - l.reference[f][i];
                change[size_t(p)] = u[f][i] - (1 - time.weight) * (*time.first)[f][i] -
                                    (time.weight != 0 ? time.weight * (*time.second)[f][i] : 0.0);
            }
    std::vector<double> store(size, 0.0);
#pragma omp parallel for schedule(static)
    for (size_t p = 0; p < size; ++p) {
        double& stored = store[p];
        for (int k = l.J.start[p]; k < l.J.start[p + 1]; ++k) {
            const auto c = size_t(l.J.column[size_t(k)]);
            r[p] += l.K[size_t(k)] * away[c];
            stored += l.M[size_t(k)] / time.dt * change[c];
        }
        r[p] += stored;
    }
    // Summed in one order, however many threads there are.
    const double left = std::inner_product(r.begin(), r.end(), r.begin(), 0.0),
                 moved = std::inner_product(store.begin(), store.end(), store.begin(), 0.0);
    // A good guess leaves little: it need not be solved to more than the step's own measure.
    const double tolerance =
        left > moved ? inTime : std::min(1.0, inTime * std::sqrt(moved / left));
    if (tolerance >= 1)
        return true;
    constexpr double sameStep = 1e-9;
    const bool renew = l.tangentDt <= 0 || std::abs(l.tangentDt / time.dt - 1) > sameStep;
    // One field alone: conduction and storage are symmetric and positive.
    const bool symmetric = m_fields == 1;
    if (renew && symmetric)
        symmetricStage(l, time.dt);
    else if (renew)
        for (size_t k = 0; k < l.K.size(); ++k)
            l.J.value[k] = l.K[k] + l.M[k] / time.dt;
    report.assembleSeconds += base::seconds() - start;
    start = base::seconds();
    if (symmetric) {
        if (renew) {
            std::vector<char> coarse(size, 0);
            for (size_t i = 0; i < size; ++i)
                coarse[i] = l.coarse[i] >= 0;
            l.stageSystem = std::make_unique<PotentialSystem>(m_space.mesh().dimension, order);
            l.stageSystem->factorise(l.stage, coarse, m_progress);
        }
        l.stageSystem->solve(r, 1, m_progress, tolerance);
        report.iterative = l.stageSystem->isIterative();
        report.solveSeconds += base::seconds() - start;
    } else if (renew) {
        linearSolve(l, r, report, tolerance);
    } else {
        solveFactored(l, r, tolerance);
        report.solveSeconds += base::seconds() - start;
    }
    l.tangentDt = time.dt;
    ++report.iterations;
    applyStep(l, r, -1, u);
    return std::isfinite(sizeOf(l, u, r));
}

bool CoupledSolver::stage(int order, Values& u, const Stage& time, NewtonReport& report)
{
    Layout& l = layout(order);
    fixed(l, 1, time.time, u);
    l.weight.clear();
    l.isTangent = false;
    report.unknowns = l.size;
    if (m_model.isLinear())
        return linearStage(l, order, u, time, report);
    for (int f = 0; f < m_fields; ++f)
        for (const double x : u[size_t(f)])
            l.largest[f] = std::max(l.largest[f], std::abs(x));
    // Steps of nearly the same length share a tangent: the correction still goes to the solution.
    constexpr double sameStep = 1e-3, slow = 0.3, done = 1e-10;
    constexpr int mostIterations = 25;
    bool fresh = false;
    double before = 0;
    for (int i = 0; i < mostIterations; ++i) {
        m_progress.check();
        const bool renew =
            l.tangentDt <= 0 || std::abs(l.tangentDt / time.dt - 1) > sameStep || l.renew;
        double start = base::seconds();
        assemble(l, order, u, 1.0, time, renew);
        report.assembleSeconds += base::seconds() - start;
        std::vector<double> step = l.R;
        if (renew) {
            linearSolve(l, step, report, inTime);
            l.tangentDt = time.dt;
            l.renew = false;
            fresh = true;
        } else {
            start = base::seconds();
            solveFactored(l, step, inTime);
            report.solveSeconds += base::seconds() - start;
        }
        ++report.iterations;
        const double length = sizeOf(l, u, step);
        if (!std::isfinite(length))
            return false;
        applyStep(l, step, -1, u);
        // What is left shrinks by the ratio of the last two corrections each time.
        const double ratio = i > 0 && before > 0 ? length / before : 0;
        if (i > 0 && ratio >= 1 && length > done)
            return false;
        if (length < done || (i > 0 && length * ratio < done))
            return true;
        if (i > 0 && ratio > slow && !fresh)
            l.renew = true;
        before = length;
    }
    return false;
}

}  // namespace yh::fem
