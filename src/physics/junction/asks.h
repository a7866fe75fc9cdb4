// Figures over the voltage of a junction, along a line or drawn.
#pragma once

#include "physics/common/ask_maker.h"
#include "physics/junction/conditions.h"

namespace yh::physics {

class JunctionAsks : public AskMaker<JunctionConditions>
{
public:
    using AskMaker::AskMaker;

protected:
    template <class Own>
    using Rows = Table<Own>;
    /// Rows of what every junction can be asked for.
    template <class Own>
    [[nodiscard]] static Rows<Own> commonRows()
    {
        return {{"junction curve", &Own::curve},
                {"junction current", &Own::current},
                {"ideality factor", &Own::ideality},
                {"junction capacitance", &Own::capacitance},
                {"capacitance curve", &Own::capacitanceCurve},
                {"built-in voltage", &Own::builtIn},
                {"open-circuit voltage", &Own::open},
                {"largest power", &Own::power}};
    }
    static JunctionCurves& curvesOf(Solution& s) { return as<JunctionCurves>(s); }
    /// A figure that a number of each grid makes.
    using Value = std::function<double(const JunctionCurves&, int level)>;
    void figure(Ask& ask, Value value);
    void curve(const sheet::Line& l);
    void capacitanceCurve(const sheet::Line& l);
    void current(const sheet::Line& l);
    void ideality(const sheet::Line& l);
    void capacitance(const sheet::Line& l);
    void builtIn(const sheet::Line& l);
    void open(const sheet::Line& l);
    void power(const sheet::Line& l);

private:
    using ValueAt = std::function<double(const JunctionCurves&, int level, double bias)>;
    void table(const sheet::Line& l, const std::string& name, const ValueAt& value,
               std::string (*csv)(const JunctionCurves&));
    bool isLit(const sheet::Line& l);
};

}  // namespace yh::physics
