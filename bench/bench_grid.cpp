// Steps of the elastic grid: water alone, and water over a solid, with layers on all sides.
// Counter: cells a second, those of the layers not counted.
#include "grid/elastic_grid.h"

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

}  // namespace

BENCHMARK_MAIN();
