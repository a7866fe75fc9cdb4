// Steps of the elastic grid (water alone, and water over a solid, with layers on all sides) and of
// that of Maxwell's equations (an empty box, a block in it, layers on all sides).
// Counter: cells a second, those of the layers not counted.
#include "grid/elastic_grid.h"
#include "grid/yee_grid.h"

#include <benchmark/benchmark.h>

#include <vector>

using namespace yh::grid;

namespace {

void steps(benchmark::State& state)
{
    const int n = int(state.range(0));
    const bool half = state.range(1) != 0;
    std::vector<Elastic> cells(size_t(n) * size_t(n));
    for (size_t i = 0; half && i < cells.size() / 2; ++i)
        cells[i] = {7850, 1.09e11, 7.9e10};
    ElasticGrid g(n, n, cells, {50e-6, 1e6, 20, {}});
    const auto middle = g.place(0.5 * n, 0.6 * n);
    for (auto unused : state) {
        static_cast<void>(unused);
        g.addPressure(middle, 1);
        g.step();
    }
    state.counters["cells"] =
        benchmark::Counter(double(n) * n, benchmark::Counter::kIsIterationInvariantRate);
}
BENCHMARK(steps)->Args({300, 0})->Args({1000, 0})->Args({1000, 1})->UseRealTime();

void yee(benchmark::State& state)
{
    const int n = int(state.range(0));
    const bool block = state.range(1) == 1, open = state.range(1) == 2;
    YeeGrid::Options o;
    o.cells = {n, n, n};
    o.size = {1e-3, 1e-3, 1e-3};
    o.walls.fill(open ? Wall::absorbing : Wall::electric);
    auto inside = [&](int i) { return block && i > n / 3 && i < 2 * n / 3; };
    YeeGrid g(
        o,
        [&](int, int i, int j, int k) {
            return YeeEdge{1, inside(i) && inside(j) && inside(k) ? 4.0F : 1.0F, 0};
        },
        [](int, int, int, int) { return YeeFace{}; });
    const auto middle = g.edge(2, n / 2, n / 2, n / 2);
    for (auto unused : state) {
        static_cast<void>(unused);
        g.drive(middle, 1);
        g.step();
    }
    state.counters["cells"] =
        benchmark::Counter(double(n) * n * n, benchmark::Counter::kIsIterationInvariantRate);
}
BENCHMARK(yee)->Args({256, 0})->Args({256, 1})->Args({128, 2})->UseRealTime();

}  // namespace

BENCHMARK_MAIN();
