#include "run/report.h"

#include <nlohmann/json.hpp>

#include <sys/resource.h>
#include <cmath>

namespace yh::run {

using Json = nlohmann::ordered_json;

namespace {

/// Not-a-number becomes null.
Json number(double v)
{
    return std::isfinite(v) ? Json(v) : Json(nullptr);
}
double numberFrom(const Json& j)
{
    return j.is_number() ? j.get<double>() : std::numeric_limits<double>::quiet_NaN();
}

Json list(const std::vector<double>& v)
{
    Json a = Json::array();
    for (const double x : v)
        a.push_back(number(x));
    return a;
}
Json values(const std::vector<double>& v, size_t columns)
{
    if (columns == 0)
        return v.empty() ? Json(nullptr) : v.size() == 1 ? number(v[0]) : list(v);
    Json rows = Json::array();
    for (size_t i = 0; i < v.size(); i += columns) {
        Json row = Json::array();
        for (size_t k = i; k < i + columns && k < v.size(); ++k)
            row.push_back(number(v[k]));
        rows.push_back(row);
    }
    return rows;
}
std::vector<double> valuesFrom(const Json& j)
{
    std::vector<double> v;
    if (!j.is_array())
        return {numberFrom(j)};
    for (const Json& row : j)
        for (const double x : valuesFrom(row))
            v.push_back(x);
    return v;
}
const char* const states[] = {"good", "note", "warning", "bad"};

Json finding(const Finding& f)
{
    Json j;
    j["name"] = f.name;
    j["label"] = f.label;
    j["line"] = f.line;
    if (!f.conductors.empty())
        j["conductors"] = f.conductors;
    j["value"] = values(f.value, f.conductors.size());
    j["unit"] = f.unit;
    j["error"] = f.noLimit ? Json(nullptr) : values(f.error, f.conductors.size());
    j["ask"] = {{"within", number(f.within)},
                {"reference", number(f.reference)},
                {"below", number(f.below)},
                {"above", number(f.above)}};
    if (f.isAsked())
        j["met"] = f.met;
    if (f.noLimit)
        j["no_limit"] = true;
    if (!f.note.empty())
        j["note"] = f.note;
    if (!f.table.empty())
        j["table"] = f.table;
    if (!f.directions.empty()) {
        j["directions"] = f.directions;
        j["of"] = f.of;
    }
    if (!f.at.empty())
        j["at"] = list(f.at);
    return j;
}

Finding findingFrom(const Json& j)
{
    Finding f;
    f.name = j.value("name", "");
    f.label = j.value("label", "");
    f.line = j.value("line", -1);
    f.unit = j.value("unit", "");
    if (j.contains("conductors"))
        f.conductors = j["conductors"].get<std::vector<std::string>>();
    f.value = valuesFrom(j.at("value"));
    f.error = valuesFrom(j.at("error"));
    if (j.contains("ask")) {
        f.within = numberFrom(j["ask"].value("within", Json()));
        f.reference = j["ask"].value("reference", 0.0);
        f.below = numberFrom(j["ask"].value("below", Json()));
        f.above = numberFrom(j["ask"].value("above", Json()));
    }
    f.met = j.value("met", true);
    f.noLimit = j.value("no_limit", false);
    f.note = j.value("note", "");
    f.table = j.value("table", "");
    f.directions = j.value("directions", "");
    f.of = j.value("of", "");
    if (j.contains("at"))
        f.at = valuesFrom(j["at"]);
    return f;
}

Json pass(const Pass& p)
{
    return {{"pass", p.number},     {"triangles", p.triangles}, {"unknowns", p.unknowns},
            {"seconds", p.seconds}, {"value", list(p.value)},   {"error", list(p.error)}};
}

Json faultList(const base::Faults& faults)
{
    Json a = Json::array();
    for (const base::Fault& f : faults)
        a.push_back({{"number", f.number},
                     {"line", f.place.line},
                     {"field", f.place.field},
                     {"offset", f.place.offset},
                     {"text", f.text},
                     {"incomplete", f.incomplete}});
    return a;
}

base::Faults faultsFrom(const Json& j)
{
    base::Faults list;
    for (const Json& f : j)
        list.push_back({f.value("number", 0),
                        {f.value("line", -1), f.value("field", ""), f.value("offset", -1)},
                        f.value("text", ""),
                        f.value("incomplete", false)});
    return list;
}

void put(Json& j, const Report& r)
{
    j["findings"] = Json::array();
    for (const Finding& f : r.findings)
        j["findings"].push_back(finding(f));
    j["checks"] = Json::array();
    for (const Check& c : r.checks) {
        Json k{{"id", c.id}, {"state", states[int(c.state)]}, {"text", c.text}};
        if (c.line >= 0)
            k["line"] = c.line;
        if (!c.at.empty())
            k["at"] = list(c.at);
        if (!c.proposal.empty())
            k["proposal"] = c.proposal;
        j["checks"].push_back(k);
    }
    j["passes"] = Json::array();
    for (const Pass& p : r.passes)
        j["passes"].push_back(pass(p));
    j["mesh"] = {{"triangles", r.mesh.triangles},
                 {"vertices", r.mesh.vertices},
                 {"curved", r.mesh.curved},
                 {"order", r.mesh.order},
                 {"worst_quality", number(r.mesh.worstQuality)},
                 {"mean_quality", number(r.mesh.meanQuality)}};
    j["seconds"] = r.seconds;
    j["peak_bytes"] = r.peakBytes;
    if (!r.faults.empty())
        j["faults"] = faultList(r.faults);
}

Check checkFrom(const Json& c)
{
    Check k;
    k.id = c.value("id", "");
    const std::string s = c.value("state", "note");
    for (int i = 0; i < 4; ++i)
        if (s == states[i])
            k.state = Check::State(i);
    k.text = c.value("text", "");
    k.line = c.value("line", -1);
    if (c.contains("at"))
        k.at = valuesFrom(c["at"]);
    k.proposal = c.value("proposal", "");
    return k;
}

Pass passFrom(const Json& p)
{
    Pass q;
    q.number = p.value("pass", 0);
    q.triangles = p.value("triangles", 0);
    q.unknowns = p.value("unknowns", 0);
    q.seconds = p.value("seconds", 0.0);
    q.value = valuesFrom(p.at("value"));
    q.error = valuesFrom(p.at("error"));
    return q;
}

Report reportFrom(const Json& j)
{
    Report r;
    for (const Json& f : j.at("findings"))
        r.findings.push_back(findingFrom(f));
    for (const Json& c : j.at("checks"))
        r.checks.push_back(checkFrom(c));
    for (const Json& p : j.at("passes"))
        r.passes.push_back(passFrom(p));
    const Json& m = j.at("mesh");
    r.mesh = {m.value("triangles", 0),
              m.value("vertices", 0),
              m.value("curved", 0),
              m.value("order", 0),
              numberFrom(m.at("worst_quality")),
              numberFrom(m.at("mean_quality"))};
    r.seconds = j.value("seconds", 0.0);
    r.peakBytes = j.value("peak_bytes", 0.0);
    if (j.contains("faults"))
        r.faults = faultsFrom(j["faults"]);
    return r;
}

[[nodiscard]] Json json(const std::vector<physics::Axis>& axes)
{
    Json all = Json::array();
    for (const physics::Axis& a : axes) {
        Json places = Json::array();
        for (const auto& p : a.places)
            places.push_back(
                {{"label", p.label}, {"shown", p.shown}, {"arrays", p.arrays}, {"at", p.at}});
        all.push_back({{"kind", a.kind}, {"places", std::move(places)}});
    }
    return all;
}

/// What others hand us (names in files, messages of libraries) may hold bytes that are no text.
std::string written(const Json& j, int indent = -1)
{
    return j.dump(indent, ' ', false, Json::error_handler_t::replace);
}

}  // namespace

bool Report::allMet() const
{
    for (const Finding& f : findings)
        if (!f.met)
            return false;
    return faults.empty();
}

std::string toJson(const std::vector<physics::Axis>& axes)
{
    return written(json(axes));
}

std::string toJson(const Result& result)
{
    Json j;
    j["program"] = "yellowhorn-solve";
    j["version"] = YH_VERSION;
    j["sheet_hash"] = result.report.sheetHash;
    put(j, result.report);
    if (!result.fieldFile.empty())
        j["field"] = result.fieldFile;
    if (!result.linesFile.empty())
        j["lines"] = result.linesFile;
    if (!result.files.empty())
        j["files"] = result.files;
    if (!result.axes.empty())
        j["axes"] = json(result.axes);
    j["line_ids"] = result.lineIds;
    if (!result.swept.empty()) {
        j["swept_here"] = list(result.sweptHere);
        j["swept"] = result.swept;
        j["swept_units"] = result.sweptUnits;
        j["swept_degrees"] = result.sweptDegrees;
        j["points"] = Json::array();
        for (const SweepPoint& p : result.points) {
            Json k;
            k["parameters"] = list(p.parameters);
            put(k, p.report);
            j["points"].push_back(k);
        }
    }
    return written(j, 1);
}

std::string toJson(const base::Faults& faults)
{
    return written(faultList(faults));
}
std::string toJson(const Pass& p)
{
    return written(pass(p));
}

Result resultFromJson(const std::string& text, base::Faults& faults)
{
    Result r;
    try {
        const Json j = Json::parse(text);
        r.report = reportFrom(j);
        r.report.sheetHash = j.value("sheet_hash", "");
        r.fieldFile = j.value("field", "");
        r.linesFile = j.value("lines", "");
        r.files = j.value("files", std::vector<std::string>());
        if (j.contains("swept")) {
            r.swept = j["swept"].get<std::vector<std::string>>();
            r.sweptUnits = j["swept_units"].get<std::vector<std::string>>();
            for (const Json& k : j.at("points"))
                r.points.push_back({valuesFrom(k.at("parameters")), reportFrom(k)});
        }
    } catch (const Json::exception&) {
        faults.push_back({7101, {}, "the stored results are broken; solve again", false});
        return {};
    }
    return r;
}

double peakBytes()
{
    rusage usage{};
    getrusage(RUSAGE_SELF, &usage);
    return 1024.0 * double(usage.ru_maxrss);
}

}  // namespace yh::run
