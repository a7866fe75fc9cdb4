// Assembly, ordering, factorisation and solution of a scalar problem of order 2, in the plane and
// in a solid.
// Counters: unknowns, entries of the factor, peak memory of the process so far (GB).
#include "cube_mesh.h"
#include "fem/assembly.h"
#include "fem/cholesky.h"
#include "fem/edge.h"
#include "fem/ldlt.h"
#include "fem/potential_system.h"

#include <benchmark/benchmark.h>

#include <sys/resource.h>
#include <cmath>
#include <complex>
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

/// Unit cube in 6 n^3 tetrahedra: each of n x n x n small cubes cut along its diagonal.
Problem& solidProblem(int n)
{
    static int made = 0;
    static Problem p;
    if (made == n)
        return p;
    made = n;
    sheet::Document d;
    d.add("space", {{"type", "solid"}});
    d.add("box", {{"name", "s"}, {"width", "1 m"}, {"length", "1 m"}, {"height", "1 m"}});
    p.partition = shape::Partition::build(sheet::Model(d));
    p.mesh = test::cubeMesh(p.partition, n);
    p.space = std::make_unique<fem::H1Space>(p.mesh, 2);
    p.isFree.assign(size_t(p.space->count()), 1);
    for (int s = 0; s < p.mesh.sideCount(); ++s)
        if (p.mesh.sideCells[size_t(s)][1] < 0)
            for (const int k : p.space->onSide(s, 2))
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

void solidAssembly(benchmark::State& state)
{
    Problem& p = solidProblem(int(state.range(0)));
    const auto numbering = fem::nestedDissection(*p.space, 2, p.isFree);
    for (auto _ : state) {
        const auto elements =
            fem::stiffness(*p.space, std::vector<fem::Coefficient>(1), fem::Measure::plane);
        const auto K = fem::assemble(*p.space, 2, elements, numbering);
        benchmark::DoNotOptimize(K.value.data());
    }
    counters(state, numbering.size());
    state.counters["tetrahedra"] = p.mesh.cellCount();
}

void solidSolution(benchmark::State& state)
{
    Problem& p = solidProblem(int(state.range(0)));
    const auto elements =
        fem::stiffness(*p.space, std::vector<fem::Coefficient>(1), fem::Measure::plane);
    int n = 0;
    for (auto _ : state) {
        const auto numbering = fem::nestedDissection(*p.space, 2, p.isFree);
        state.PauseTiming();
        const auto K = fem::assemble(*p.space, 2, elements, numbering);
        std::vector<char> coarse(size_t(K.size));
        for (size_t i = 0; i < coarse.size(); ++i)
            coarse[i] = numbering.function[i] < p.mesh.vertexCount();
        state.ResumeTiming();
        std::vector<double> x(size_t(K.size), 1.0);
        fem::PotentialSystem system(3, 2);
        system.factorise(K, coarse, base::Progress());
        system.solve(x, 1, base::Progress());
        n = K.size;
        benchmark::DoNotOptimize(x.data());
    }
    counters(state, n);
}

/// Edge elements of order 2 with the media of vacuum.
struct EdgeSystem
{
    fem::EdgeSpace space;
    fem::Numbering numbering;
    fem::CellFunctions functions;
    std::vector<fem::Coefficient> one = std::vector<fem::Coefficient>(1);

    explicit EdgeSystem(const mesh::Mesh& mesh)
        : space(mesh, 2),
          numbering(fem::byRank(space.functionRanks(2, fem::cornerRanks(mesh)),
                                std::vector<char>(size_t(space.count()), 1))),
          functions{&mesh, space.localCount(2), space.localCount(2), space.cellTable()}
    {
    }
    [[nodiscard]] fem::SymmetricFamily assembled() const
    {
        const auto e = fem::edgeElements(space, one, one, fem::Measure::plane);
        const std::vector<fem::Term> terms{{&e.curl, {}}, {&e.mass, {}}};
        return fem::assemble(functions, terms, numbering);
    }
};

/// LDL^T of a complex system of edge elements of order 2, and one solution to 1e-11: in single
/// precision and refined (the second argument is 1) or in double.
void edgeFactorisation(benchmark::State& state)
{
    using Complex = std::complex<double>;
    Problem& p = solidProblem(int(state.range(0)));
    const EdgeSystem system(p.mesh);
    const fem::SymmetricFamily family = system.assembled();
    for (auto _ : state) {
        std::vector<Complex> A(family.row.size()), x(size_t(family.size), Complex(1, 1));
        for (size_t k = 0; k < A.size(); ++k)
            A[k] = family.value[0][k] - Complex(300, 30) * family.value[1][k];
        auto run = [&](auto&& factor) {
            factor.factorise(family.size, family.start, family.row, std::move(A));
            factor.solve(x, 1);
        };
        if (state.range(1) == 1)
            run(fem::RefinedLdlt<Complex>());
        else
            run(fem::Ldlt<Complex>());
        benchmark::DoNotOptimize(x);
    }
    counters(state, family.size);
}

/// Element matrices of both kinds and two matrices on one pattern, edge elements of order 2.
void edgeAssembly(benchmark::State& state)
{
    Problem& p = solidProblem(int(state.range(0)));
    const EdgeSystem system(p.mesh);
    for (auto _ : state) {
        const auto family = system.assembled();
        benchmark::DoNotOptimize(family.value[0].data());
    }
    counters(state, system.numbering.size());
    state.counters["tetrahedra"] = p.mesh.cellCount();
}

/// A sphere in a box, all in curved tetrahedra.
void solidMesh(benchmark::State& state)
{
    sheet::Document d;
    d.add("space", {{"type", "solid"}});
    d.add("box", {{"name", "s"}, {"width", "2 m"}, {"length", "2 m"}, {"height", "2 m"}});
    d.add("sphere", {{"name", "ball"}, {"radius", "0.5 m"}, {"at", "0, 0, 1 m"}});
    const auto partition = shape::Partition::build(sheet::Model(d));
    mesh::Options options;
    options.largest = 2.0 / double(state.range(0));
    for (size_t i = 0; i < partition.pieces().size(); ++i)
        options.pieces.push_back(int(i));
    int cells = 0;
    for (auto _ : state) {
        base::Progress progress;
        cells = mesh::generate(partition, options, progress).cellCount();
    }
    counters(state, 0);
    state.counters["tetrahedra"] = cells;
    state.counters["a_second"] =
        benchmark::Counter(double(cells), benchmark::Counter::kIsIterationInvariantRate);
}

}  // namespace

BENCHMARK(solidMesh)->Arg(68)->Unit(benchmark::kSecond)->UseRealTime()->Iterations(1);
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
BENCHMARK(solidAssembly)
    ->Arg(32)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime()
    ->MeasureProcessCPUTime();
BENCHMARK(solidSolution)
    ->Arg(32)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime()
    ->MeasureProcessCPUTime()
    ->Iterations(1);
BENCHMARK(edgeAssembly)
    ->Arg(20)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime()
    ->MeasureProcessCPUTime();
BENCHMARK(edgeFactorisation)
    ->Args({20, 1})
    ->Args({12, 1})
    ->Args({12, 0})
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime()
    ->MeasureProcessCPUTime()
    ->Iterations(1);
BENCHMARK_MAIN();
