// A field whose losses heat, and the heat: two studies joined by the channel of heat_source.h.
//
// The field of an order heats the temperatures of the same order, so that their difference holds
// the error of both. Where the field depends on the temperature, both are solved in turns until
// neither moves. Over time the field is known at a few times, Chebyshev's points of the duration,
// with the temperatures of the round before (waveform relaxation: Lelarasmee, Ruehli and
// Sangiovanni-Vincentelli, IEEE Trans. Comput.-Aided Des. 1 (1982) 131, from memory).
#pragma once

#include "physics/common/heat_source.h"
#include "physics/transport/transport.h"

namespace yh::physics {

class HeatingField : public Solution
{
public:
    HeatingField(std::unique_ptr<HeatSource> lossy, const TransportProblem& heat,
                 const mesh::Mesh& mesh, const shape::Partition& partition, int order,
                 base::Progress& progress);
    void solve(int lowestOrder, base::Progress& progress) override;
    const mesh::Mesh& mesh() const override { return m_heat.mesh(); }
    int order() const override { return m_heat.order(); }
    Counters counters() const override;
    const std::vector<Quantity>& quantities() const override { return m_quantities; }
    void sample(int cell, const Point& xi, double* values) const override;
    std::vector<double> indicator(bool allDrives) const override;
    std::vector<double> dualIndicator(const LocalFunctional& functional) override
    {
        return m_heat.dualIndicator(functional);
    }
    std::optional<Change> changeOf(const LocalFunctional& functional) override
    {
        return m_heat.changeOf(functional);
    }
    double geometryError() const override;
    std::vector<SingularCorner> singularCorners() const override
    {
        return m_heat.singularCorners();
    }
    std::vector<double> showTimes() const override { return m_heat.showTimes(); }
    void showAt(double time) override { m_heat.showAt(time); }
    bool setCoarse(bool coarse) override { return m_heat.setCoarse(coarse); }

    [[nodiscard]] HeatSource& lossy() { return *m_lossy; }
    [[nodiscard]] TransportSolver& heat() { return m_heat; }
    /// How often field and heat were solved in turns, and by how much of the rise the temperature
    /// still moved in the last round.
    [[nodiscard]] int rounds() const { return m_rounds; }
    [[nodiscard]] double unsettled() const { return m_unsettled; }

private:
    /// All orders and the whole band, at the temperatures of the end.
    void solveAtEnd(int lowestOrder, const std::vector<double>& times, base::Progress& progress);
    void solveInTurns(int lowestOrder, base::Progress& progress);
    /// Temperatures of all cells at their centres and corners.
    [[nodiscard]] std::vector<double> sampled(const HeatSource::Temperature& T) const;

    std::unique_ptr<HeatSource> m_lossy;
    TransportProblem m_problem;  ///< with the losses as a source
    TransportSolver m_heat;
    std::vector<Quantity> m_quantities;
    int m_rounds = 1;
    double m_unsettled = 0;
};

}  // namespace yh::physics
