// What circuits of parts say of themselves.
#include "physics/circuit/face_ends.h"
#include "sheet/model.h"
#include "sheet/schema_slots.h"

#include <algorithm>
#include <array>
#include <cstdio>
#include <map>
#include <set>

namespace yh::physics {

using namespace sheet;

namespace {

const std::string circuit = "circuit";

struct PartKind
{
    const char *key, *what;
    int ports;
};
constexpr std::array<PartKind, 5> partKinds = {{{"guide part", "guide", 2},
                                                {"coupler part", "coupler", 4},
                                                {"splitter part", "splitter", 3},
                                                {"reflector part", "reflector", 2},
                                                {"file part", "file", 0}}};

Slot shareSlot(const std::string& help, bool required = false)
{
    return {.key = "share",
            .type = T::quantity,
            .marker = "with",
            .required = required,
            .fallback = required ? "" : "50 %",
            .range = Range::notNegative,
            .help = help,
            .always = true};
}
Slot excessSlot()
{
    return {.key = "loss",
            .type = T::quantity,
            .marker = "losing",
            .fallback = "0 dB",
            .range = Range::positive,
            .help = "of what goes through, as a level"};
}
Slot endSlot(const std::string& key, const std::string& marker)
{
    return {.key = key,
            .type = T::text,
            .marker = marker,
            .required = true,
            .help = "a port of a part, such as A.2"};
}

void addParts(std::vector<Kind>& k)
{
    k.push_back(
        {"guide part",
         circuit,
         "guide",
         {nameSlot(),
          length("length", "of length", "along which the wave travels; ports 1 and 2"),
          {.key = "index",
           .type = T::quantity,
           .marker = "with index",
           .required = true,
           .range = Range::positive,
           .help = "effective index at the reference"},
          {.key = "group",
           .type = T::quantity,
           .marker = "group index",
           .range = Range::positive,
           .help = "without it, the same at all frequencies"},
          {.key = "at",
           .type = T::quantity,
           .marker = "at",
           .dimension = dim::length,
           .range = Range::positive,
           .help = "wavelength in vacuum that both hold at; without it, the middle of the band"},
          excessSlot(),
          {.key = "per",
           .type = T::quantity,
           .marker = "per",
           .dimension = dim::length,
           .fallback = "1 cm",
           .range = Range::positive,
           .help = "length of which the loss is"}},
         "guide long of length 120 um with index 2.4 group index 4.1 losing 2 dB per 1 cm",
         "A guide between two ports, by its indices.",
         false});
    k.push_back(
        {"coupler part",
         circuit,
         "coupler",
         {nameSlot(), shareSlot("of the power crosses; ports 1 and 2 lead straight to 3 and 4"),
          excessSlot()},
         "coupler K with 50 %",
         "Two guides that share their power."});
    k.push_back({"splitter part",
                 circuit,
                 "splitter",
                 {nameSlot(), shareSlot("of the power of port 1 goes to port 2, the rest to 3"),
                  excessSlot()},
                 "splitter Y with 50 %",
                 "One guide that becomes two; what comes back out of step is lost."});
    k.push_back({"reflector part",
                 circuit,
                 "reflector",
                 {nameSlot(), shareSlot("of the power comes back; ports 1 and 2", true)},
                 "reflector M with 30 %",
                 "A thin plane that reflects a share of the power."});
    k.push_back({"file part",
                 circuit,
                 "part",
                 {nameSlot(),
                  {.key = "file",
                   .type = T::file,
                   .marker = "from",
                   .required = true,
                   .help = "S-parameters in a Touchstone file, such as those of another sheet"}},
                 "part S from splitter.results/S-parameters.s3p",
                 "A part by its S-parameters over frequency."});
    k.push_back({"joint",
                 circuit,
                 "joint",
                 {endSlot("from", ""), endSlot("to", "to")},
                 "joint K.3 to long.1",
                 "Two ports that are one place."});
    k.push_back({"terminal",
                 circuit,
                 "terminal",
                 {nameSlot(), endSlot("at", "at")},
                 "terminal in at K.1",
                 "A port where waves go in and out of the circuit."});
    k.push_back({"termination",
                 circuit,
                 "termination",
                 {endSlot("at", "on"),
                  {.key = "reflection",
                   .type = T::quantity,
                   .marker = "reflecting",
                   .fallback = "0",
                   .help = "amplitude that comes back; -1: a short"}},
                 "termination on K.2",
                 "A port where waves end."});
    for (const auto& [key, words, d, example] :
         {std::tuple{"wavelengths", "wavelengths", dim::length,
                     "wavelengths from 1.5 um to 1.6 um in 2001 points"},
          {"frequencies", "frequencies", dim::frequency,
           "frequencies from 8 GHz to 12 GHz in 401 points"}})
        k.push_back({key,
                     circuit,
                     words,
                     {{.key = "from",
                       .type = T::quantity,
                       .marker = "from",
                       .dimension = d,
                       .required = true,
                       .range = Range::positive,
                       .help = "where the band begins"},
                      {.key = "to",
                       .type = T::quantity,
                       .marker = "to",
                       .dimension = d,
                       .required = true,
                       .range = Range::positive,
                       .help = "where it ends"},
                      {.key = "steps",
                       .type = T::count,
                       .marker = "in",
                       .fallback = "2001",
                       .suffix = "points",
                       .always = true,
                       .most = 1e6}},
                     example,
                     "The band of the curves.",
                     false,
                     true});
}

Slot terminalSlot(const std::string& key, const std::string& marker)
{
    return {.key = key,
            .type = T::reference,
            .marker = marker,
            .required = true,
            .refersTo = "terminal",
            .help = "a terminal"};
}
std::vector<Slot> atSlots()
{
    return {{.key = "wavelength",
             .type = T::quantity,
             .marker = "at",
             .dimension = dim::length,
             .range = Range::positive,
             .help = "wavelength in vacuum",
             .insteadOf = "frequency"},
            {.key = "frequency",
             .type = T::quantity,
             .marker = "at the frequency",
             .dimension = dim::frequency,
             .range = Range::positive,
             .help = "instead of a wavelength",
             .insteadOf = "wavelength"}};
}

void addAsks(std::vector<Kind>& k)
{
    const std::string a = "ask";
    auto add = [&](const char* key, std::vector<Slot> slots, bool at, const char* example,
                   const char* help) {
        if (at)
            for (Slot& s : atSlots())
                slots.push_back(s);
        slots.push_back(within("0.1 %"));
        k.push_back({key, a, key, std::move(slots), example, help});
    };
    add("spectrum", {terminalSlot("of", "of")}, false, "spectrum of in within 0.1 %",
        "What comes out of each terminal over the band, as curves and as a Touchstone file.");
    add("insertion loss", {terminalSlot("from", "from"), terminalSlot("to", "to")}, true,
        "insertion loss from in to out at 1.55 um within 0.1 %",
        "How much less comes out of one terminal than goes into another, in dB.");
    add("return loss", {terminalSlot("of", "of")}, true,
        "return loss of in at 1.55 um within 0.1 %",
        "How much less comes back than goes in, in dB.");
    add("extinction ratio", {terminalSlot("from", "from"), terminalSlot("to", "to")}, false,
        "extinction ratio from in to out within 0.1 %",
        "The largest transmission of the band over the least, in dB.");
    add("free spectral range", {terminalSlot("from", "from"), terminalSlot("to", "to")}, false,
        "free spectral range from in to out within 0.1 %",
        "From one dark place of the spectrum to the next, about the middle of the band.");
}

std::string textOf(const Line& l)
{
    std::string text;
    for (const PartKind& k : partKinds)
        if (l.kind == k.key)
            text = k.what;
    for (const char* key : {"length", "share", "file"})
        if (l.has(key)) {
            std::string value = l.get(key);
            // A path is too long for a box.
            if (const auto slash = value.rfind('/'); slash != std::string::npos)
                value = value.substr(slash + 1);
            text += " " + value;
        }
    return text;
}

Diagram diagramOf(const Document& d)
{
    Diagram out;
    std::map<std::string, int> box;
    for (const Line& l : d.lines)
        if (isPart(l.kind)) {
            const int ports =
                l.kind == "file part" ? portsOfFile(l.get("file")) : portsOfPart(l.kind);
            box[l.name()] = int(out.boxes.size());
            out.boxes.push_back({l.name(), textOf(l), l.id, ports, false});
        }
    auto link = [&](const CircuitEnd& a, int b, int port) {
        out.links.push_back({{box[a.part->name()], b}, {a.port, port}});
    };
    for (const Line& l : d.lines) {
        if (l.kind == "joint") {
            const auto a = circuitEnd(d, l.get("from")), b = circuitEnd(d, l.get("to"));
            if (a && b)
                link(*a, box[b->part->name()], b->port);
        } else if (l.kind == "terminal" || l.kind == "termination") {
            const bool open = l.kind == "terminal";
            out.boxes.push_back(
                {open ? l.name() : std::string(),
                 open || !l.has("reflection") ? std::string() : "reflects " + l.get("reflection"),
                 l.id, 1, true});
            if (const auto a = circuitEnd(d, l.get("at")))
                link(*a, int(out.boxes.size()) - 1, 0);
        }
    }
    return out;
}

/// Every end must be one that there is, and no port may be used twice.
void checkLines(const Model& model, base::Faults& faults)
{
    const Document& d = model.document();
    std::map<std::string, std::string> used;
    for (const Line& l : d.lines)
        for (const char* key : {"from", "to", "at"}) {
            if ((l.kind != "joint" && l.kind != "terminal" && l.kind != "termination") ||
                !l.has(key))
                continue;
            const auto end = circuitEnd(d, l.get(key));
            if (!end) {
                faults.push_back({2300,
                                  {l.id, key, 0},
                                  "'" + l.get(key) +
                                      "' is no port of a part: write the part's name, a dot and "
                                      "the port's number, such as A.2"});
                continue;
            }
            const std::string port = end->part->name() + "." + std::to_string(end->port + 1);
            if (!used.emplace(port, l.kind).second)
                faults.push_back(
                    {2301, {l.id, key, 0}, "port " + port + " is taken already by another line"});
        }
    for (const char* kind : {"coupler part", "splitter part", "reflector part"})
        for (const Line* l : d.ofKind(kind))
            if (model.slotFaults(*l).empty() && model.number(*l, "share") > 1)
                faults.push_back({2302,
                                  {l->id, "share", 0},
                                  "more than all of the power: a share lies from 0 to 1"});
    for (const char* kind : {"guide part", "coupler part", "splitter part"})
        for (const Line* l : d.ofKind(kind))
            if (model.slotFaults(*l).empty() && model.number(*l, "loss") < 1)
                faults.push_back({2303,
                                  {l->id, "loss", 0},
                                  "a part loses power: state a level of 0 dB or more"});
}

void checkSheet(const Model& model, base::Faults& faults)
{
    const Document& d = model.document();
    if (!d.first("wavelengths") && !d.first("frequencies"))
        faults.push_back({2304,
                          {-1, circuit, -1},
                          "over which band? add a line such as `wavelengths from 1.5 um to 1.6 um`",
                          true});
    if (const Line* l = d.first("frequencies"); l && d.first("wavelengths"))
        faults.push_back(
            {2305, {l->id, {}, -1}, "a band is stated by wavelengths or by frequencies, not both"});
    if (!d.first("terminal"))
        faults.push_back({2306,
                          {-1, circuit, -1},
                          "nothing goes in or out yet: add a line such as `terminal in at A.1`",
                          true});
    // Ports of which nothing is said; a file's are counted where it is read.
    for (const Line& l : d.lines) {
        if (!isPart(l.kind))
            continue;
        const int ports = l.kind == "file part" ? portsOfFile(l.get("file")) : portsOfPart(l.kind);
        for (int p = 0; p < ports; ++p) {
            const std::string port = l.name() + "." + std::to_string(p + 1);
            const bool used = std::any_of(d.lines.begin(), d.lines.end(), [&](const Line& o) {
                return (o.kind == "joint" && (o.get("from") == port || o.get("to") == port)) ||
                       ((o.kind == "terminal" || o.kind == "termination") && o.get("at") == port);
            });
            if (!used)
                faults.push_back(
                    {2307,
                     {l.id, "name", -1},
                     "port " + port + " is open: join it, or add `termination on " + port + "`",
                     true});
        }
    }
}

Document circuitSheet()
{
    Document d;
    d.add("aim", {{"text", "The spectrum of …"}});
    d.add("wavelengths", {{"from", "1.5 um"}, {"to", "1.6 um"}});
    d.add("splitter part", {{"name", "Y"}});
    d.add("terminal", {{"name", "in"}, {"at", "Y.1"}});
    d.add("spectrum", {{"of", "in"}});
    return d;
}

}  // namespace

int portsOfPart(const std::string& kind)
{
    for (const PartKind& k : partKinds)
        if (kind == k.key)
            return k.ports;
    return 0;
}

bool isPart(const std::string& kind)
{
    return std::any_of(partKinds.begin(), partKinds.end(),
                       [&](const PartKind& k) { return kind == k.key; });
}

int portsOfFile(const std::string& file)
{
    int ports = 0;
    const auto dot = file.rfind('.');
    if (dot == std::string::npos || std::sscanf(file.c_str() + dot, ".%*1[sS]%d", &ports) != 1)
        return 0;
    return ports;
}

std::optional<CircuitEnd> circuitEnd(const Document& d, const std::string& text)
{
    const auto dot = text.rfind('.');
    int number = 0;
    if (dot == std::string::npos || std::sscanf(text.c_str() + dot, ".%d", &number) != 1 ||
        number < 1)
        return std::nullopt;
    const std::string name = text.substr(0, dot);
    for (const Line& l : d.lines)
        if (isPart(l.kind) && l.name() == name) {
            const int ports =
                l.kind == "file part" ? portsOfFile(l.get("file")) : portsOfPart(l.kind);
            if (ports > 0 && number > ports)
                return std::nullopt;
            return CircuitEnd{&l, number - 1};
        }
    return std::nullopt;
}

Topic circuitTopic()
{
    Topic t;
    t.key = "circuit";
    t.order = 120;
    t.sections = {{circuit, "Circuit", "part or joint"}};
    t.shown = {circuit};
    t.addLines = addParts;
    t.addAsks = addAsks;
    t.cards = {
        {"circuit", "Circuit of parts",
         "Spectrum, insertion loss, extinction ratio and free spectral range of guides and files.",
         circuitSheet}};
    t.claims = [](const Document& d) { return usesSection(d, circuit); };
    t.checkLines = checkLines;
    t.checkSheet = checkSheet;
    t.diagram = diagramOf;
    t.hasShape = false;
    return t;
}

}  // namespace yh::physics
