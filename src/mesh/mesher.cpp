#include "mesh/mesher.h"

#include <gmsh.h>
#include <omp.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <unordered_map>

namespace yh::mesh {

Session::Session() : m_threads(omp_get_max_threads())
{
    // The library shifts places by the C library's random numbers: the same ones in each session,
    // whatever was meshed before, and in one thread, so that they come in the same order.
    std::srand(1);
    omp_set_num_threads(1);
    gmsh::initialize(0, nullptr, false);
    gmsh::option::setNumber("General.Terminal", 0);
    gmsh::option::setNumber("General.NumThreads", 1);
    gmsh::option::setNumber("Mesh.MeshSizeFromPoints", 0);
    gmsh::option::setNumber("Mesh.MeshSizeFromCurvature", 0);
    gmsh::option::setNumber("Mesh.MeshSizeExtendFromBoundary", 1);
    gmsh::option::setNumber("Mesh.Algorithm", 6);
    gmsh::option::setNumber("Geometry.OCCAutoFix", 0);
    gmsh::model::add("yellowhorn");
}

Session::~Session()
{
    gmsh::finalize();
    // The library sets the number of threads of the whole process.
    omp_set_num_threads(m_threads);
}

void collectCurve(int tag, int curve, double period,
                  const std::unordered_map<std::size_t, int>& index,
                  std::vector<Mesh::CurveEdge>& onCurves)
{
    constexpr int twoNodeLine = 1;
    std::vector<std::size_t> nodeTags, elements, nodes;
    std::vector<double> c, t;
    gmsh::model::mesh::getNodes(nodeTags, c, t, 1, tag, true, true);
    std::unordered_map<std::size_t, double> parameter;
    for (size_t i = 0; i < nodeTags.size() && i < t.size(); ++i)
        parameter[nodeTags[i]] = t[i];
    gmsh::model::mesh::getElementsByType(twoNodeLine, elements, nodes, tag);
    for (size_t i = 0; i + 1 < nodes.size(); i += 2) {
        const auto a = index.find(nodes[i]), b = index.find(nodes[i + 1]);
        if (a == index.end() || b == index.end())
            continue;
        double ta = parameter.at(nodes[i]), tb = parameter.at(nodes[i + 1]);
        // The corner of a closed curve stands for both its ends.
        if (period > 0 && std::abs(ta - tb) > 0.5 * period)
            (ta < tb ? ta : tb) += period;
        onCurves.push_back({a->second, b->second, curve, ta, tb});
    }
}

namespace {

[[noreturn]] void foldedAt(const Mesh& mesh, int cell)
{
    const Geometry g(mesh, cell);
    const Point where = g.at(g.centre());
    const std::string near = " near x = " + base::format(where.x, base::dim::length) +
                             ", y = " + base::format(where.y, base::dim::length);
    throw base::Error(4003, g.curved ? "the mesh folds over a curved edge" + near +
                                           "; ask for smaller cells there"
                                     : "no sound cells fit" + near +
                                           ": a region is far thinner than it is wide; make it a "
                                           "thin layer, or ask for smaller cells there");
}

/// A curved side may bulge through a flat cell whose own sides are plane.
void upright(const Mesh& mesh)
{
    for (int t = 0; t < mesh.cellCount(); ++t) {
        const Geometry g(mesh, t);
        if (!(g.determinant(g.centre()) > 0))
            foldedAt(mesh, t);
    }
}

}  // namespace

Mesh untangle(Mesh mesh, const shape::Partition& partition, base::Progress& progress)
{
    // Below this share of its mean the determinant is too uneven for good figures.
    constexpr double leastShare = 0.2;
    constexpr int mostRounds = 12;
    const int before = mesh.cellCount();
    for (int round = 0; round < mostRounds; ++round) {
        progress.check();
        const std::vector<char> bad = folded(mesh, leastShare);
        if (bad.empty()) {
            upright(mesh);
            return mesh;
        }
        // Small meshes of strongly bent shapes may grow by more.
        constexpr int mostGrowth = 3, always = 2000;
        if (round == mostRounds - 1 || mesh.cellCount() > mostGrowth * before + always)
            foldedAt(mesh, int(std::find(bad.begin(), bad.end(), 1) - bad.begin()));
        mesh = refine(mesh, partition, bad);
    }
    return mesh;
}

void mesherFailed()
{
    try {
        throw;
    } catch (const base::Error&) {
        throw;
    } catch (const base::Cancelled&) {
        throw;
    } catch (const std::exception& e) {
        throw base::Error(4005, std::string("the mesher gave up: ") + e.what());
    } catch (const std::string& why) {
        throw base::Error(4005, "the mesher gave up: " + why);
    } catch (...) {
        throw base::Error(
            4005, "the mesher gave up without a reason; shift or simplify the shapes a little");
    }
}

}  // namespace yh::mesh
