// Assembly, ordering, factorisation and solution of a scalar problem of order 2 in the plane.
// Counters: unknowns, entries of the factor, peak memory of the process so far (GB).
#include "fem/assembly.h"
#include "fem/cholesky.h"

#include <benchmark/benchmark.h>

#include <sys/resource.h>
#include <cmath>
#include <memory>

using namespace yh;

namespace {

struct Problem
{
    shape::Partition partition;
    mesh::Mesh mesh;
    std::unique_ptr<fem::H1Space> space;
    std::vector<char> isFree;
};

/// Unit square in triangles of a structured grid of n x n cells: n^2 * 4 unknowns at order 2.
Problem& problem(int n)
{
    static int made = 0;
    static Problem p;
    if (made == n)
        return p;
    made = n;
    sheet::Document d;
    d.add("rectangle", {{"name", "s"}, {"width", "1 m"}, {"height", "1 m"}});
    p.partition = shape::Partition::build(sheet::Model(d));
    p.mesh = {};
    for (int j = 0; j <= n; ++j)
        for (int i = 0; i <= n; ++i)
            p.mesh.vertices.push_back({double(i) / n, double(j) / n});
    for (int j = 0; j < n; ++j)
        for (int i = 0; i < n; ++i) {
            const int a = j * (n + 1) + i;
            p.mesh.cells.push_back({a, a + 1, a + n + 2, -1});
            p.mesh.cells.push_back({a, a + n + 2, a + n + 1, -1});
        }
    p.mesh.piece.assign(p.mesh.cells.size(), 0);
    p.mesh.connect(p.partition, {});
    p.space = std::make_unique<fem::H1Space>(p.mesh, 2);
    p.isFree.assign(size_t(p.space->count()), 1);
    for (int e = 0; e < p.mesh.edgeCount(); ++e)
        if (p.mesh.sideCells[size_t(e)][1] < 0)
            for (const int k : p.space->onSide(e, 2))
                p.isFree[size_t(k)] = 0;
    return p;
}

void counters(benchmark::State& state, int unknowns)
{
    rusage usage{};
    getrusage(RUSAGE_SELF, &usage);
    state.counters["unknowns"] = unknowns;
    state.counters["peak_GB"] = double(usage.ru_maxrss) / 1e6;
}

void assembly(benchmark::State& state)
{
    Problem& p = problem(int(state.range(0)));
    const auto numbering = fem::nestedDissection(*p.space, 2, p.isFree);
    for (auto _ : state) {
        const auto elements =
            fem::stiffness(*p.space, std::vector<fem::Coefficient>(1), fem::Measure::plane);
        const auto K = fem::assemble(*p.space, 2, elements, numbering);
        benchmark::DoNotOptimize(K.value.data());
    }
    counters(state, numbering.size());
}

void solution(benchmark::State& state)
{
    Problem& p = problem(int(state.range(0)));
    const auto elements =
        fem::stiffness(*p.space, std::vector<fem::Coefficient>(1), fem::Measure::plane);
    int n = 0;
    double entries = 0;
    for (auto _ : state) {
        const auto numbering = fem::nestedDissection(*p.space, 2, p.isFree);
        state.PauseTiming();
        const auto K = fem::assemble(*p.space, 2, elements, numbering);
        state.ResumeTiming();
        std::vector<double> x(size_t(K.size), 1.0);
        fem::Cholesky factor;
        factor.analyse(K);
        factor.factorise(K);
        factor.solve(x, 1);
        n = K.size;
        entries = factor.factorEntries();
        benchmark::DoNotOptimize(x.data());
    }
    counters(state, n);
    state.counters["factor_entries"] = entries;
}

}  // namespace

BENCHMARK(assembly)
    ->Arg(250)
    ->Arg(500)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime()
    ->MeasureProcessCPUTime();
BENCHMARK(solution)
    ->Arg(250)
    ->Arg(500)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime()
    ->MeasureProcessCPUTime()
    ->Iterations(1);
BENCHMARK_MAIN();
