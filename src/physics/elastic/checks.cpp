#include "physics/common/constants.h"
#include "physics/common/routes.h"
#include "physics/elastic/asks.h"

#include <cmath>
#include <cstdio>

namespace yh::physics {

namespace {

using Task = ElasticProblem::Task;

std::string rough(double x)
{
    char text[32];
    std::snprintf(text, sizeof text, "%.0e", x);
    return text;
}

class Checks
{
public:
    Checks(const sheet::Model& model, const ElasticSolver& field)
        : m_model(model), m_s(field), m_p(field.problem())
    {
    }
    std::vector<Check> run()
    {
        if (m_p.task == Task::band) {
            powers();
            vectors();
            resonances();
        }
        if (m_p.task == Task::modes)
            modes();
        if (m_p.task != Task::modes)
            charges();
        wavelength();
        across();
        return std::move(m_list);
    }

private:
    void add(const char* id, Check::State state, const std::string& text, const char* kind = "")
    {
        const sheet::Line* l = m_model.document().first(kind);
        m_list.push_back({id, state, text, l ? l->id : -1, {}});
    }
    static Check::State good(bool is) { return is ? Check::State::good : Check::State::bad; }

    /// What the electrodes put in against what the media lose: flows against fields.
    void powers()
    {
        if (!m_p.isLossy()) {
            add("losses", Check::State::note,
                "without losses: at a resonance nothing limits the motion; state a mechanical Q or "
                "a tan δ");
            return;
        }
        const auto w = m_s.powers(m_s.shownFrequency());
        const double off = std::abs(w.in - w.lost) / std::max(std::abs(w.in), std::abs(w.lost));
        add("power balance", good(off < 1e-5),
            "power of the electrodes and loss in the media agree to " + rough(off) + " at " +
                base::format(m_s.shownFrequency(), base::dim::frequency, 5));
    }
    void vectors()
    {
        const auto& r = m_s.response(m_s.order());
        constexpr double enough = 1e-6;
        add("band model", r.residual() < enough ? Check::State::good : Check::State::warning,
            "the whole band from " + std::to_string(r.vectors()) +
                " vectors: the equations hold to " + rough(r.residual()),
            "vibration");
    }
    void resonances()
    {
        std::string text;
        size_t count = 0;
        for (size_t e = 0; e < m_p.electrodes.size(); ++e) {
            if (m_p.electrodes[e].floats || m_p.electrodes[e].voltage == 0)
                continue;
            for (const auto& r : m_s.resonances(m_s.order(), int(e))) {
                constexpr size_t most = 6;
                if (++count <= most)
                    text += (text.empty() ? "" : ", ") +
                            base::format(r.series, base::dim::frequency, 5) +
                            (std::isfinite(r.parallel) ? " (k " + percent(r.coupling()) + ")" : "");
            }
        }
        if (count > 0)
            add("resonances", Check::State::note,
                std::to_string(count) + (count == 1 ? " resonance" : " resonances") +
                    " in the band: " + text + (count > 6 ? ", …" : ""),
                "vibration");
    }
    void modes()
    {
        std::string text;
        for (int k = 0; k < std::min(m_p.modes, m_s.modeCount()); ++k)
            text += (k ? ", " : "") +
                    base::format(m_s.modeFrequency(m_s.order(), k), base::dim::frequency, 5);
        add("natural vibrations", Check::State::note, "found: " + text, "natural vibrations");
        if (const int n = m_s.rigidMotions(); n > 0)
            add("rigid motions", Check::State::note,
                std::to_string(n) + (n == 1 ? " motion" : " motions") +
                    " of the body as a whole at 0 Hz are not counted: nothing holds it",
                "natural vibrations");
        add("scale of modes", Check::State::note, "shapes are shown for 1 µm at most");
        if (!m_p.electrodes.empty())
            add("electrodes of modes", Check::State::note,
                "electrodes with a voltage are joined, floating ones are open");
    }
    void charges()
    {
        if (m_p.electrodes.empty())
            return;
        std::complex<double> sum = 0;
        double most = 0;
        for (size_t e = 0; e < m_p.electrodes.size(); ++e) {
            const auto q = m_s.charge(
                m_s.order(), {0, m_p.task == Task::band ? m_s.shownFrequency() : 0.0}, int(e));
            sum += q;
            most = std::max(most, std::abs(q));
        }
        if (most == 0)
            return;
        const double off = std::abs(sum) / most;
        add("charge balance", good(off < 1e-6),
            "charges of all electrodes add up to " + rough(off));
    }
    /// Cells per shear wave at the end of the band or of the highest mode.
    void wavelength()
    {
        double f = m_p.high;
        if (m_p.task == Task::modes)
            f = m_s.modeFrequency(m_s.order(), std::min(m_p.modes, m_s.modeCount()) - 1);
        if (!(f > 0))
            return;
        double least = 1e300;
        Point where;
        const mesh::Mesh& m = m_s.mesh();
        for (int t = 0; t < m.cellCount(); ++t) {
            const ElasticMedium& medium = m_p.media[size_t(m.piece[size_t(t)])];
            if (!medium.moves)
                continue;
            const double wave = std::sqrt(medium.c(3, 3).real() / medium.density) / f;
            for (const int e : m.edgesOf(t)) {
                const auto& ends = m.edges[size_t(e)];
                const double h = norm(m.vertices[size_t(ends[0])] - m.vertices[size_t(ends[1])]);
                if (wave / h < least) {
                    least = wave / h;
                    where = 0.5 * (m.vertices[size_t(ends[0])] + m.vertices[size_t(ends[1])]);
                }
            }
        }
        char text[96];
        std::snprintf(text, sizeof text, "%.1f cells of order %d per shear wave at the coarsest",
                      least, m_s.order());
        constexpr double enough = 1.2;
        m_list.push_back({"cells per wave",
                          least > enough ? Check::State::good : Check::State::warning,
                          text,
                          -1,
                          {where.x, where.y}});
    }
    void across()
    {
        if (!m_p.isAxisymmetric() && !m_model.document().first("across the drawing"))
            add("across the drawing", Check::State::note,
                "nothing moves across the drawing (plane strain); `across the drawing free` for a "
                "thin one");
    }

    const sheet::Model& m_model;
    const ElasticSolver& m_s;
    const ElasticProblem& m_p;
    std::vector<Check> m_list;
};

}  // namespace

std::vector<Check> makeElasticChecks(const sheet::Model& model, const ElasticSolver& field)
{
    return Checks(model, field).run();
}

}  // namespace yh::physics
