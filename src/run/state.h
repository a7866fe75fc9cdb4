// One state of a sheet, solved with refinement until every ask is met.
#pragma once

#include "base/clock.h"
#include "physics/common/study.h"
#include "run/estimate.h"
#include "run/run.h"

#include <memory>

namespace yh::run {

/// What a sweep may reuse: geometry and mesh of a state with the same shape.
struct Reuse
{
    std::string shapeKey;
    std::shared_ptr<const shape::Partition> partition;
    mesh::Mesh mesh;
    bool hasMesh = false;
};

class State
{
public:
    /// @param from, to  share of the whole work that this is
    State(const sheet::Model& model, const Settings& settings, base::Progress& progress,
          double from, double to);
    /// @throws Error, Faults, Cancelled
    Report run(Reuse& reuse);
    /// The first mesh only.
    Report meshOnly(Reuse& reuse);
    /// Writes fields and profiles of the last pass; names them in the report.
    void store(Report& report, Result& result) const;
    /// Writes the mesh alone.
    void storeMesh(const std::string& path) const;

    [[nodiscard]] const physics::Solution& field() const { return *m_field; }
    /// Whether there are fields in space that can be read at places.
    [[nodiscard]] bool isSampled() const { return m_rung->isSampled(); }

private:
    void log(const std::string& text) const;
    /// The mesh of the newest pass; empty where nothing is meshed.
    [[nodiscard]] const mesh::Mesh& mesh() const { return m_rung->mesh(); }
    /// Writes the fields and their lines; names them.
    void storeFields(Result& result) const;
    void prepare(Reuse& reuse);
    void limits();
    [[nodiscard]] bool calibrated() const { return m_settings.calibration.size() == m_asks.size(); }
    /// Where the refinement ends, as the rest of a sentence; empty: a further pass may follow.
    /// @param effort  seconds that the newest pass took
    [[nodiscard]] std::string limitReached(int pass, double effort) const;
    /// The numbers of an ask by all orders that tell of its error.
    struct Evaluation
    {
        std::vector<physics::Evaluated> orders;  ///< the best last, with `changes`
        std::vector<double> changes;             ///< of the next order; empty: not known
        std::vector<double> timeError;           ///< of steps in time
        double unsure = 0;
        std::any with;  ///< what the best evaluation left
        /// Few numbers may have been made of many.
        [[nodiscard]] double timeErrorAt(size_t k) const
        {
            return k < timeError.size() ? timeError[k] : 0.0;
        }
    };
    [[nodiscard]] Evaluation evaluationOf(const physics::Ask& ask);
    /// Value and error of an ask from what it was on all passes.
    /// @param geometry  share of the field between the borders meshed and drawn
    void estimate(size_t ask, const Evaluation& evaluation, double geometry);
    /// What a finding says of itself, and whether it is met.
    void conclude(const physics::Ask& ask, Finding& finding, double largest,
                  const std::vector<physics::SingularCorner>& corners);
    void evaluate();
    /// Refines by looks at part of the problem, where they are cheap.
    void scout();
    /// Raises the errors of a matrix, so that none is small because parts cancel by chance.
    /// @param changes  see Ask::uncancelled
    static void errBetweenDrives(const std::vector<double>& changes, std::vector<double>& error);
    void noLimit(const physics::Ask& ask, Finding& finding,
                 const std::vector<physics::SingularCorner>& corners);
    void record(int number, double took);
    /// What the next pass is to be better for.
    [[nodiscard]] physics::Goals goals();
    void climb();
    /// Of the study or of the sheet.
    void chooseOrder();
    void check();
    void meshFacts();

    const sheet::Model& m_model;
    const Settings& m_settings;
    base::Progress& m_progress;
    double m_from, m_to, m_start;
    base::Effort m_effort;
    std::shared_ptr<const shape::Partition> m_partition;
    std::unique_ptr<physics::Study> m_study;
    std::vector<physics::Ask> m_asks;
    std::vector<std::vector<History>> m_histories;  ///< by ask, by number
    std::vector<std::any> m_with;                   ///< by ask: what its best evaluation left
    std::unique_ptr<physics::Rung> m_rung;
    std::unique_ptr<physics::Solution> m_field;
    Report m_report;
    int m_order = 3, m_passes = 14, m_unknowns = 600000;
    double m_seconds = 120;
    bool m_stepsTooLong = false, m_meshTooCoarse = false;  ///< why asks are missed
    bool m_done = false;
};

}  // namespace yh::run
