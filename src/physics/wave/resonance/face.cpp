// What resonances of closed and open devices say of themselves.
#include "physics/wave/common/face.h"

namespace yh::physics {

using namespace sheet;

namespace {

Document resonanceSheet()
{
    Document d;
    d.add("aim", {{"text", "The resonance of …, and its Q"}});
    d.add("space", {{"type", "solid"}});
    d.add("material", {{"material", "vacuum"}});
    d.add("mesh", {});
    d.add("modes", {{"count", "1"}});
    d.add("metal wall", {{"material", "copper"}});
    d.add("resonance", {{"mode", "1"}});
    d.add("quality factor", {{"mode", "1"}});
    return d;
}

}  // namespace

Topic waveResonanceTopic()
{
    Topic t = waveTopic("resonance", 50);
    t.cards = {
        {"resonance", "Resonance and Q",
         "Resonant frequencies, fields and quality factors of a cavity, closed or open, and R/Q.",
         resonanceSheet}};
    t.claims = [](const Document& d) { return waveTask(d) == WaveTask::resonance; };
    return t;
}

}  // namespace yh::physics
