// An exercise: steady seepage through soil of one conductivity, div(grad h) = 0 for the head h in
// m, held where water of a level touches the soil; drawings only. By depth and over the
// conductivity the flow between two levels is the integral of |grad h|^2 over the difference of the
// levels. Source: Bear, Dynamics of Fluids in Porous Media, section 7.1 (from memory).
#include "physics/common/study.h"
#include "fem/cholesky.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

namespace yh::physics {

namespace {

struct Seepage
{
    std::vector<int> pieces;
    std::map<int, double> head;  ///< m, by side of the partition
    [[nodiscard]] double difference() const
    {
        const auto [low, high] =
            std::minmax_element(head.begin(), head.end(),
                                [](const auto& a, const auto& b) { return a.second < b.second; });
        return high->second - low->second;
    }
};

class SeepageSolution : public Solution
{
public:
    SeepageSolution(const Seepage& problem, const mesh::Mesh& mesh,
                    const shape::Partition& partition, int order)
        : m_problem(problem),
          m_space(mesh, order),
          m_elements(fem::stiffness(
              m_space, std::vector<fem::Coefficient>(partition.pieces().size(), {{1, 0, 1}, {}}),
              fem::Measure::plane))
    {
    }
    void solve(int lowest, base::Progress& progress) override
    {
        m_head.clear();
        for (int p = lowest; p <= order(); ++p) {
            progress.check();
            solveOrder(p);
        }
    }
    [[nodiscard]] const mesh::Mesh& mesh() const override { return m_space.mesh(); }
    [[nodiscard]] int order() const override { return m_space.order(); }
    [[nodiscard]] Counters counters() const override { return m_counters; }
    [[nodiscard]] const std::vector<Quantity>& quantities() const override { return m_quantities; }
    void sample(int cell, const Point& xi, double* values) const override
    {
        values[0] = m_space.value(m_head.at(order()), order(), cell, xi);
    }
    [[nodiscard]] std::vector<double> indicator(bool) const override
    {
        // What the order below misses, by cell.
        std::vector<double> difference = m_head.at(order());
        const auto& below = m_head.at(order() - 1);
        for (size_t i = 0; i < below.size(); ++i)
            difference[i] -= below[i];
        return energies(difference, order());
    }
    [[nodiscard]] std::vector<double> dualIndicator(const LocalFunctional&) override
    {
        return indicator(false);
    }
    [[nodiscard]] double geometryError() const override { return 0; }
    [[nodiscard]] std::vector<SingularCorner> singularCorners() const override { return {}; }

    [[nodiscard]] double flow(int p) const
    {
        const auto parts = energies(m_head.at(p), p);
        return std::accumulate(parts.begin(), parts.end(), 0.0) / m_problem.difference();
    }

private:
    [[nodiscard]] std::vector<double> energies(const std::vector<double>& head, int p) const
    {
        const int n = m_space.localCount(p);
        std::vector<double> list;
        for (int t = 0; t < mesh().cellCount(); ++t) {
            const auto [number, x] = onCell(head, t, n);
            double y[fem::mostLocal];
            m_elements.multiply(t, n, x.data(), y);
            list.push_back(std::inner_product(x.begin(), x.begin() + n, y, 0.0));
        }
        return list;
    }
    [[nodiscard]] std::pair<std::array<int, fem::mostLocal>, std::array<double, fem::mostLocal>>
    onCell(const std::vector<double>& head, int t, int n) const
    {
        std::pair<std::array<int, fem::mostLocal>, std::array<double, fem::mostLocal>> own{};
        double sign[fem::mostLocal];
        m_space.local(t, own.first.data(), sign);
        for (int i = 0; i < n; ++i)
            own.second[size_t(i)] = head[size_t(own.first[size_t(i)])];
        return own;
    }
    void solveOrder(int p)
    {
        std::vector<double> head(size_t(m_space.count(p)), 0.0);
        std::vector<char> isFree(head.size(), 1);
        for (int s = 0; s < mesh().sideCount(); ++s)
            if (const auto held = m_problem.head.find(mesh().sideTag[size_t(s)]);
                held != m_problem.head.end()) {
                for (const int i : m_space.onSide(s, p))
                    isFree[size_t(i)] = 0;
                for (const int v : mesh().sideCorners(s))
                    if (v >= 0)
                        head[size_t(v)] = held->second;
            }
        const fem::Numbering numbering = fem::nestedDissection(m_space, p, isFree);
        const fem::SparseSymmetric K = fem::assemble(m_space, p, m_elements, numbering);
        std::vector<double> rhs(size_t(K.size), 0.0);
        const int n = m_space.localCount(p);
        for (int t = 0; t < mesh().cellCount(); ++t) {
            const auto [number, x] = onCell(head, t, n);
            double y[fem::mostLocal];
            m_elements.multiply(t, n, x.data(), y);
            for (int i = 0; i < n; ++i)
                if (const int row = numbering.place[size_t(number[size_t(i)])]; row >= 0)
                    rhs[size_t(row)] -= y[i];
        }
        fem::Cholesky factor;
        factor.analyse(K);
        factor.factorise(K);
        factor.solve(rhs, 1);
        for (int i = 0; i < K.size; ++i)
            head[size_t(numbering.function[size_t(i)])] = rhs[size_t(i)];
        m_head[p] = std::move(head);
        m_counters.unknowns = K.size;
    }

    const Seepage& m_problem;
    fem::H1Space m_space;
    fem::ElementMatrices m_elements;
    std::map<int, std::vector<double>> m_head;  ///< by order; shape (count(order))
    Counters m_counters;
    std::vector<Quantity> m_quantities{{"h", "head", "m", 1, "equal heads"}};
};

class SeepageStudy : public Study
{
public:
    SeepageStudy(const sheet::Model& model, const shape::Partition& partition, base::Faults& faults)
    {
        for (size_t k = 0; k < partition.pieces().size(); ++k)
            m_problem.pieces.push_back(int(k));
        for (const sheet::Line* l : model.document().ofKind("water level"))
            for (const int side :
                 partition.resolve(model.place(*l, "on"), model, {l->id, "on", 0}).sides)
                m_problem.head[side] = model.number(*l, "head");
        if (m_problem.head.empty() || !(m_problem.difference() > 0))
            faults.push_back({9001, {-1, "seepage", -1}, "two different levels make water seep"});
    }
    [[nodiscard]] std::string name() const override { return "seepage"; }
    [[nodiscard]] const std::vector<int>& activePieces() const override { return m_problem.pieces; }
    [[nodiscard]] std::unique_ptr<Solution> on(const mesh::Mesh& mesh,
                                               const shape::Partition& partition, int order,
                                               base::Progress&) const override
    {
        return std::make_unique<SeepageSolution>(m_problem, mesh, partition, order);
    }
    [[nodiscard]] std::vector<Ask> asks(const sheet::Model& model, const shape::Partition&,
                                        base::Faults&) const override
    {
        std::vector<Ask> list;
        for (const sheet::Line* l : model.document().ofKind("seepage")) {
            list.push_back(beginAsk(model, *l, base::dim::length, "seepage"));
            list.back().evaluate = [](Solution& s, int order) {
                return std::vector{as<SeepageSolution>(s).flow(order)};
            };
        }
        return list;
    }
    [[nodiscard]] std::vector<Check> checks(const sheet::Model&, const shape::Partition&, Solution&,
                                            const std::vector<Ask>&) const override
    {
        return {};
    }

private:
    Seepage m_problem;
};

}  // namespace

std::unique_ptr<Study> seepageStudy(const sheet::Model& model, const shape::Partition& partition,
                                    base::Faults& faults)
{
    return std::make_unique<SeepageStudy>(model, partition, faults);
}

}  // namespace yh::physics
