// Modes of ports whose face holds several media: those of an endless guide of that section, at some
// frequencies of the band.
#include "base/quantity.h"
#include "physics/common/constants.h"
#include "physics/wave/common/guide_modes.h"
#include "physics/wave/common/port_face.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::physics {

namespace {

/// The section of the guide, its media without loss at a frequency.
WaveProblem sectionOf(const WaveProblem& device, const WavePort& port, const Face& face, int count,
                      double frequency)
{
    WaveProblem section;
    const size_t pieces = device.eps.size();
    section.eps = device.eps;
    section.inverseMu = device.inverseMu;
    for (size_t f = 0; f < pieces; ++f) {
        for (fem::Coefficient* k : {&section.eps[f], &section.inverseMu[f]})
            if (k->at)
                k->at = [inSpace = k->at, face](Point p) { return inSpace(face.inSpace(p)); };
        if (const auto* d = device.dispersiveOf(int(f)))
            section.eps[f].constant =
                fem::Tensor::isotropic(d->eps(frequency, roomTemperature).real());
    }
    section.loss.assign(pieces, 0.0);
    section.sigma.assign(pieces, 0.0);
    section.density.assign(pieces, 0.0);
    section.activePieces = device.activePieces;
    section.sides = {WaveProblem::electric, WaveProblem::magnetic};
    section.guideModes = count;
    section.guideLine = port.line;
    section.guideFrequency = frequency;
    return section;
}

/// What a mode is at one frequency.
struct At
{
    std::vector<double> weight;  ///< integral of (h x z) . f_i
    double index = 0, impedance = 0;
};

}  // namespace

std::vector<PortMode> modesOfMedia(const WaveProblem& problem, const WavePort& port, int count,
                                   const fem::EdgeSpace& space, int order,
                                   std::span<const int> walls, base::Progress& progress)
{
    Face face(port, space.mesh(), walls);
    for (size_t i = 0; i < face.side.size(); ++i)
        for (const int cell : space.mesh().sideCells[size_t(face.side[i])])
            // Metal behind the port may be meshed for its heat.
            if (cell >= 0 && problem.carries(space.mesh().piece[size_t(cell)]))
                face.mesh.piece[i] = space.mesh().piece[size_t(cell)];
    // Sides of the face: walls, and where the device ends without one.
    face.mesh.sideTag.assign(size_t(face.mesh.sideCount()), -1);
    for (int e = 0; e < face.mesh.sideCount(); ++e)
        if (face.mesh.sideCells[size_t(e)][1] < 0)
            face.mesh.sideTag[size_t(e)] = 1;
    for (const int e : face.rim)
        face.mesh.sideTag[size_t(e)] = 0;
    const fem::EdgeSpace plane(face.mesh, order);
    const fem::H1Space scalar(face.mesh, order);
    const auto number = face.numbers(plane, space, order);
    std::vector<fem::Coefficient> one(problem.eps.size());
    // The field between two conductors, by which their current is known.
    std::vector<double> between;
    {
        const auto stiffness = fem::stiffness(scalar, one, fem::Measure::plane);
        Gradients potentials(plane, scalar, order, stiffness, face.rim,
                             fem::cornerRanks(face.mesh));
        if (auto fields = potentials.betweenWalls(); fields.size() == 1)
            between = std::move(fields[0]);
    }
    // Enough for what changes over an octave as a power of the frequency does.
    constexpr int many = 6;
    const auto places =
        chebyshevPoints(problem.low, problem.high, problem.high > problem.low ? many : 1);
    std::vector<PortMode> list;
    for (const double f : places) {
        progress.check();
        const WaveProblem section = sectionOf(problem, port, face, count, f);
        GuideModesSolver solver(section, face.mesh, shape::Partition(), order, progress);
        try {
            solver.solve(order, progress);
        } catch (const base::Error& e) {
            constexpr int tooFew = 5026;
            if (e.fault().number != tooFew)
                throw;
            throw base::Error(6242,
                              "at " + base::format(f, base::dim::frequency, 4) + " fewer than " +
                                  std::to_string(count) +
                                  " mode(s) travel in the guide behind this port; with several "
                                  "media the band must begin above their cut-off",
                              {port.line, "modes", -1});
        }
        const auto weigh =
            fem::edgeElements(plane, one, section.inverseMu, fem::Measure::plane).mass;
        for (int k = 0; k < count; ++k) {
            auto e = solver.across(order, k);
            const auto slope = plane.gradient(scalar, order, solver.potential(order, k));
            auto g = e;
            for (size_t i = 0; i < g.size(); ++i)
                g[i] += slope[i];
            At now;
            now.index = solver.effectiveIndex(order, k).real();
            now.weight = fem::product(plane, order, weigh, g);
            const double along = now.index / (mu0 * c0);
            for (double& w : now.weight)
                w *= along;
            // The integral of e x h is to be 1, with one sign at all frequencies and like ports.
            const double product = std::inner_product(e.begin(), e.end(), now.weight.begin(), 0.0);
            double scale = 1 / std::sqrt(product);
            if (face.lean(plane, order, e) < 0)
                scale = -scale;
            for (double& w : now.weight)
                w *= scale;
            if (!between.empty()) {
                const double current =
                    std::inner_product(between.begin(), between.end(), now.weight.begin(), 0.0);
                now.impedance = 1 / (current * current);
            }
            if (f == places.front()) {
                PortMode mode;
                mode.kind = PortMode::Kind::hybrid;
                mode.number = number;
                mode.places = places;
                list.push_back(std::move(mode));
            }
            PortMode& mode = list[size_t(k)];
            if (!mode.weights.empty() && std::inner_product(now.weight.begin(), now.weight.end(),
                                                            mode.weights.back().begin(), 0.0) < 0)
                for (double& w : now.weight)
                    w = -w;
            mode.weights.push_back(std::move(now.weight));
            mode.index.push_back(now.index);
            if (!between.empty())
                mode.lineImpedance.push_back(now.impedance);
        }
    }
    for (PortMode& mode : list)
        mode.weight = mode.weights[mode.weights.size() / 2];
    return list;
}

}  // namespace yh::physics
