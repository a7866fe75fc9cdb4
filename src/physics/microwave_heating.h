// Microwave heating: what a wave loses in media heats them.
//
//   q = (omega eps0 eps tan(delta) + sigma) |E|^2 / 2
//
// is the source of heat, with E of the frequency that is shown, scaled to the power that comes in.
// Properties do not follow the temperature in the wave; regions of metal take no part, so that heat
// neither flows in them nor through them.
// Source: Pozar, Microwave Engineering, section 1.6 (from memory).
#pragma once

#include "physics/transport.h"
#include "physics/wave_driven.h"

namespace yh::physics {

class HeatingField : public Field
{
public:
    /// @param power  W, into the first port of the whole device
    HeatingField(const WaveProblem& wave, const TransportProblem& heat, double power,
                 const mesh::Mesh& mesh, const shape::Partition& partition, int order,
                 base::Progress& progress);
    void solve(int lowestOrder, base::Progress& progress) override;
    const mesh::Mesh& mesh() const override { return m_heat.mesh(); }
    int order() const override { return m_heat.order(); }
    Counters counters() const override;
    const std::vector<Quantity>& quantities() const override { return m_quantities; }
    void sample(int cell, const Point& xi, double* values) const override;
    std::vector<double> indicator(bool allDrives) const override;
    std::vector<double> dualIndicator(const PointFunctional& functional) override
    {
        return m_heat.dualIndicator(functional);
    }
    double geometryError() const override;
    std::vector<SingularCorner> singularCorners() const override
    {
        return m_heat.singularCorners();
    }
    std::vector<double> showTimes() const override { return m_heat.showTimes(); }
    void showAt(double time) override { m_heat.showAt(time); }
    bool setCoarse(bool coarse) override { return m_heat.setCoarse(coarse); }

    [[nodiscard]] WaveDrivenSolver& wave() { return m_wave; }
    [[nodiscard]] TransportSolver& heat() { return m_heat; }
    /// Power that pieces take from the wave, W, whole device.
    [[nodiscard]] double absorbed(int order, const std::vector<int>& pieces) const;

private:
    [[nodiscard]] TransportProblem heated(const TransportProblem& heat);

    double m_share;  ///< power over that of the fields shown
    const mesh::Mesh& m_mesh;
    mesh::Locator m_locator;
    WaveDrivenSolver m_wave;
    TransportProblem m_problem;  ///< with the wave as a source
    TransportSolver m_heat;
    std::vector<Quantity> m_quantities;
};

}  // namespace yh::physics
