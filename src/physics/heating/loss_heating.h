// Heat from the losses of an alternating field, that of a wave or of a slowly alternating current.
//
// What the field loses, in the mean over a period, is the source of heat:
//
//   q = (omega eps0 eps tan(delta) + sigma) |E|^2 / 2
//
// with E of the frequency that is shown; that of a wave through ports is scaled to the power that
// comes in. The field of an order heats the temperatures of the same order, so that their
// difference holds the error of both. What a wave loses in walls of metal warms them; heat flows in
// the metal, which the wave does not enter.
//
// Where media of a wave depend on the temperature, field and heat are solved in turns until neither
// moves. Over time the field is known at a few times, Chebyshev's points of the duration, with the
// temperatures of the round before, and the heat that it sets free between them by their polynomial
// (waveform relaxation: Lelarasmee, Ruehli and Sangiovanni-Vincentelli, IEEE Trans. Comput.-Aided
// Des. 1 (1982) 131, from memory). Slowly alternating currents do not follow the temperature.
// Source: Pozar, Microwave Engineering, section 1.6 (from memory).
#pragma once

#include "physics/quasistatic/quasistatic.h"
#include "physics/transport/transport.h"
#include "physics/wave/driven/driven.h"

namespace yh::physics {

/// A field with losses, as the heat problem sees it.
class LossyField
{
public:
    virtual ~LossyField() = default;
    [[nodiscard]] virtual Solution& field() = 0;
    [[nodiscard]] const Solution& field() const { return const_cast<LossyField*>(this)->field(); }
    /// Power of the device over that of the fields sampled.
    [[nodiscard]] virtual double share() const { return 1; }
    using Temperature = std::function<double(int cell, const Point& xi)>;  ///< K
    /// Whether the field depends on the temperature.
    [[nodiscard]] virtual bool follows() const { return false; }
    /// Solves the field alone, or for the last of the temperatures that it was told.
    virtual void solve(int lowestOrder, base::Progress& progress)
    {
        field().solve(lowestOrder, progress);
    }
    /// Tells it the temperatures at times, s, of which it works out what it heats with there.
    virtual void warm(const std::vector<double>& times, const std::vector<Temperature>& T,
                      base::Progress& progress)
    {
        static_cast<void>(times);
        static_cast<void>(T);
        static_cast<void>(progress);
    }
    /// Adds the losses to a heat problem as its sources.
    virtual void heat(TransportProblem& problem) const = 0;
    /// Power by volume at a place, W/m^3.
    [[nodiscard]] virtual double density(int order, int cell, const Point& xi) const = 0;
    /// Power that pieces and sheets of lines turn into heat, W, whole device.
    [[nodiscard]] virtual double power(int order, const std::vector<int>& pieces,
                                       const std::vector<int>& sheetLines) const = 0;
};

/// @param power  W, into the first port of the whole device; without ports it does not count
[[nodiscard]] std::unique_ptr<LossyField> lossyWave(const WaveProblem& wave, double power,
                                                    const mesh::Mesh& mesh,
                                                    const shape::Partition& partition, int order,
                                                    base::Progress& progress);
/// Heats where the heat problem says that the current does.
[[nodiscard]] std::unique_ptr<LossyField> lossyCurrent(const QuasistaticProblem& current,
                                                       const mesh::Mesh& mesh,
                                                       const shape::Partition& partition, int order,
                                                       base::Progress& progress);

class HeatingField : public Solution
{
public:
    HeatingField(std::unique_ptr<LossyField> lossy, const TransportProblem& heat,
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
    std::optional<Change> changeOf(const PointFunctional& functional) override
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

    [[nodiscard]] LossyField& lossy() { return *m_lossy; }
    [[nodiscard]] TransportSolver& heat() { return m_heat; }
    /// How often field and heat were solved in turns, and by how much of the rise the temperature
    /// still moved in the last round.
    [[nodiscard]] int rounds() const { return m_rounds; }
    [[nodiscard]] double unsettled() const { return m_unsettled; }

private:
    void solveInTurns(int lowestOrder, base::Progress& progress);
    /// Temperatures of all cells at their centres and corners.
    [[nodiscard]] std::vector<double> sampled(const LossyField::Temperature& T) const;

    std::unique_ptr<LossyField> m_lossy;
    TransportProblem m_problem;  ///< with the losses as a source
    TransportSolver m_heat;
    std::vector<Quantity> m_quantities;
    int m_rounds = 1;
    double m_unsettled = 0;
};

}  // namespace yh::physics
