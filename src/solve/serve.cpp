#include "solve/serve.h"

#include "physics/common/study.h"
#include "run/caught.h"
#include "run/run.h"
#include "run/sound_part.h"
#include "shape/partition.h"
#include "shape/wires.h"
#include "sheet/schema.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <condition_variable>
#include <deque>
#include <iostream>
#include <mutex>
#include <thread>

namespace yh::solve {

using Json = nlohmann::ordered_json;

namespace {

std::mutex outputMutex;

void send(const Json& event)
{
    const std::lock_guard lock(outputMutex);
    std::cout << event.dump(-1, ' ', false, Json::error_handler_t::replace) << std::endl;
}

/// Corners of the triangles of a side of solids, in three coordinates.
Json triangles(const shape::Partition& partition, int side)
{
    Json a = Json::array();
    for (const auto& t : partition.triangles(side))
        for (const auto& p : t)
            a.push_back({p.x, p.y, p.z});
    return a;
}

Json points(const std::vector<sheet::Point>& list)
{
    Json a = Json::array();
    for (const auto& p : list)
        a.push_back({p.x, p.y});
    return a;
}

/// Thin wires with the places of their ports.
Json wires(const sheet::Model& model)
{
    Json list = Json::array();
    for (const auto& w : shape::thinWires(model)) {
        Json runs = Json::array();
        for (const auto& run : w.runs) {
            Json line = Json::array();
            for (const auto& p : run)
                line.push_back({p.x, p.y, p.z});
            runs.push_back(line);
        }
        Json ports = Json::array();
        for (const sheet::Line* l : model.document().ofKind("gap feed"))
            if (l->get("in") == w.name) {
                const auto p = model.point(*l, "at");
                ports.push_back({p.x, p.y, p.z});
            }
        list.push_back({{"line", w.line}, {"radius", w.radius}, {"runs", runs}, {"ports", ports}});
    }
    return list;
}

/// The sheet in a request: its text in the file format, and the identities of its lines.
sheet::Document documentOf(const Json& request, base::Faults& faults)
{
    sheet::ReadResult r = sheet::read(request.value("sheet", ""));
    faults = r.faults;
    sheet::Document d = r.document.value_or(sheet::Document{});
    // The window knows its lines by identities that the file does not hold.
    if (request.contains("ids"))
        for (size_t i = 0; i < d.lines.size() && i < request["ids"].size(); ++i)
            d.lines[i].id = request["ids"][i].get<int>();
    return d;
}

Json places(const sheet::Model& model, const shape::Partition& partition)
{
    Json all = Json::object();
    for (const sheet::Line& l : model.document().lines) {
        const sheet::Kind* k = sheet::findKind(l.kind);
        if (!k)
            continue;
        for (const sheet::Slot& f : k->entries) {
            if (f.type != sheet::SlotType::place || !l.has(f.key))
                continue;
            try {
                const auto s = partition.resolve(model.place(l, f.key), model, {l.id, f.key, 0});
                all[std::to_string(l.id)][f.key] = {{"faces", s.pieces}, {"edges", s.sides}};
            } catch (const base::Error&) {
                // The fault list says what is wrong with it.
            }
        }
    }
    return all;
}

void shape(const Json& request)
{
    base::Faults faults;
    const sheet::Document document = documentOf(request, faults);
    const std::string folder = request.value("folder", ".");
    Json event{{"event", "shape"}, {"id", request.value("id", 0)}};
    event["faults"] = Json::parse(run::toJson(run::faultsOf(sheet::Model(document), folder)));
    try {
        const run::SoundPart drawable = run::soundPart(document, folder);
        const sheet::Model& model = *drawable.model;
        const shape::Partition& partition = drawable.partition;
        event["size"] = partition.size();
        const bool solid = partition.dimension() == 3;
        Json faces = Json::array(), edges = Json::array();
        // What carries no field is drawn as metal; faults of the conductors are told above.
        std::vector<char> metal(partition.pieces().size(), 1);
        try {
            base::Faults ignored;
            const auto problem = physics::studyOf(model, partition, ignored);
            for (const int f : problem->activePieces())
                metal[size_t(f)] = 0;
        } catch (...) {
            static_cast<void>(run::caught());
            metal.assign(metal.size(), 0);  // a broken condition does not cost the drawing
        }
        for (size_t i = 0; i < partition.pieces().size(); ++i) {
            const auto& f = partition.pieces()[i];
            const auto& r = partition.regions()[size_t(f.region)];
            Json outlines = Json::array();
            if (!solid)
                for (const auto& o : partition.outlines(int(i)))
                    outlines.push_back(points(o));
            faces.push_back({{"name", partition.proposeRegion(f.region)},
                             {"line", r.line},
                             {"copy", r.copy},
                             {"hidden", r.hidden},
                             {"shell", r.name == "far shell"},
                             {"conductor", metal[i] != 0},
                             {"outlines", outlines}});
        }
        for (size_t i = 0; i < partition.sides().size(); ++i) {
            const auto& e = partition.sides()[i];
            const bool hidden = std::all_of(e.pieces.begin(), e.pieces.end(), [&](int f) {
                return partition.regions()[size_t(partition.pieces()[size_t(f)].region)].hidden;
            });
            edges.push_back(
                {{"points", solid ? Json::array() : points(partition.polyline(int(i)))},
                 {"triangles", solid && !hidden ? triangles(partition, int(i)) : Json::array()},
                 {"rule", hidden ? "" : partition.propose(int(i))},
                 {"faces", e.pieces},
                 {"thin", e.thin},
                 {"hidden", hidden && !e.thin}});
        }
        event["solid"] = solid;
        event["endless"] = partition.openShell().present && partition.openShell().mapped;
        if (solid) {
            Json curves = Json::array();
            for (int c = 0; c < partition.curveCount(); ++c) {
                if (partition.isHiddenCurve(c))
                    continue;
                Json line = Json::array();
                for (const auto& p : partition.curvePolyline(c))
                    line.push_back({p.x, p.y, p.z});
                curves.push_back(line);
            }
            event["curves"] = curves;
            event["wires"] = wires(model);
        }
        event["faces"] = faces;
        event["edges"] = edges;
        event["places"] = places(model, partition);
    } catch (...) {
        event["failed"] = run::caught()[0].text;
    }
    send(event);
}

/// Writes the shape of a sheet as STEP.
void step(const Json& request)
{
    Json event{{"event", "step"}, {"id", request.value("id", 0)}};
    base::Faults faults;
    try {
        const sheet::Model model(documentOf(request, faults));
        shape::Partition::build(model, request.value("folder", "."))
            .writeStep(request.value("file", ""));
    } catch (...) {
        event["event"] = "failed";
        event["faults"] = Json::parse(run::toJson(run::caught()));
    }
    send(event);
}

void mesh(const Json& request, base::Progress& progress)
{
    const int id = request.value("id", 0);
    base::Faults faults;
    run::Settings settings;
    settings.folder = request.value("folder", ".");
    settings.out = request.value("out", "");
    try {
        const run::Report r = run::meshOf(documentOf(request, faults), settings, progress);
        if (!r.faults.empty()) {
            send({{"event", "failed"}, {"id", id}, {"faults", Json::parse(run::toJson(r.faults))}});
            return;
        }
        send({{"event", "mesh"},
              {"id", id},
              {"triangles", r.mesh.triangles},
              {"vertices", r.mesh.vertices},
              {"curved", r.mesh.curved},
              {"worst_quality", r.mesh.worstQuality},
              {"mean_quality", r.mesh.meanQuality},
              {"seconds", r.seconds},
              {"file", settings.out.empty() ? "" : "fields/mesh.vtu"}});
    } catch (const base::Cancelled&) {
        send({{"event", "cancelled"}, {"id", id}});
    }
}

/// The field of the last solve, for readings.
std::shared_ptr<const run::Probe> lastField;

void probe(const Json& request)
{
    Json event{{"event", "probe"}, {"id", request.value("id", 0)}};
    if (!lastField) {
        event["event"] = "failed";
        event["faults"] =
            Json::array({{{"number", 7304}, {"text", "nothing is solved yet that could be read"}}});
        send(event);
        return;
    }
    Json readings = Json::array();
    for (const Json& p : request.value("at", Json::array())) {
        Json here = Json::object();
        const auto list = lastField->at(p.at(0).get<double>(), p.at(1).get<double>(),
                                        p.size() > 2 ? p.at(2).get<double>() : 0.0);
        for (const auto& r : list)
            here[r.name] = {{"value", r.value.size() == 1 ? Json(r.value[0]) : Json(r.value)},
                            {"unit", r.unit}};
        readings.push_back(here);
    }
    event["readings"] = readings;
    send(event);
}

void solve(const Json& request, base::Progress& progress)
{
    const int id = request.value("id", 0);
    base::Faults faults;
    const sheet::Document document = documentOf(request, faults);
    run::Settings settings;
    settings.program = "/proc/self/exe";
    settings.folder = request.value("folder", ".");
    settings.out = request.value("out", "");
    settings.onPass = [id](const run::Pass& p) {
        send({{"event", "pass"}, {"id", id}, {"pass", Json::parse(run::toJson(p))}});
    };
    settings.onLog = [id](const std::string& text) {
        send({{"event", "log"}, {"id", id}, {"text", text}});
    };
    try {
        run::Outcome outcome{};
        lastField.reset();
        const run::Result result = run::solve(document, settings, progress, outcome);
        lastField = result.probe;
        if (outcome == run::Outcome::met || outcome == run::Outcome::missed)
            send({{"event", "done"},
                  {"id", id},
                  {"met", outcome == run::Outcome::met},
                  {"out", settings.out}});
        else
            send({{"event", "failed"},
                  {"id", id},
                  {"faults", Json::parse(run::toJson(result.report.faults))}});
    } catch (const base::Cancelled&) {
        send({{"event", "cancelled"}, {"id", id}});
    }
}

bool isRequest(const Json& request)
{
    return request.is_object() && request.contains("do") && request["do"].is_string() &&
           (!request.contains("id") || request["id"].is_number_integer());
}
bool isLong(const Json& request)
{
    return request["do"] == "solve" || request["do"] == "mesh";
}
/// Answers what is no request.
void refuse(const std::string& text)
{
    send({{"event", "failed"},
          {"id", -1},
          {"faults", Json::array({{{"number", 7301}, {"text", text}}})}});
}

}  // namespace

int serve()
{
    std::mutex mutex;
    std::condition_variable arrived;
    std::deque<Json> queue;
    bool ended = false;
    std::mutex progressMutex;
    int current = -1;
    double lastFraction = -1;
    base::Progress progress([&](double fraction, const std::string& doing) {
        lastFraction = fraction;
        send({{"event", "progress"}, {"id", current}, {"fraction", fraction}, {"doing", doing}});
    });
    std::thread reader([&] {
        std::string line;
        while (std::getline(std::cin, line)) {
            Json request;
            try {
                request = Json::parse(line);
            } catch (const Json::exception&) {
                refuse("a request was not JSON");
                continue;
            }
            if (!isRequest(request)) {
                refuse("a request is an object with a text `do` and, if any, a number `id`");
                continue;
            }
            const std::lock_guard lock(mutex);
            // Cancelling does not wait for its turn, and means what waits for one as well.
            if (request["do"] == "cancel") {
                for (const Json& waiting : queue)
                    if (isLong(waiting))
                        send({{"event", "cancelled"}, {"id", waiting.value("id", 0)}});
                std::erase_if(queue, isLong);
                progress.cancel();
                continue;
            }
            queue.push_back(std::move(request));
            arrived.notify_one();
        }
        const std::lock_guard lock(mutex);
        ended = true;
        progress.cancel();
        arrived.notify_one();
    });
    send({{"event", "ready"}, {"version", YH_VERSION}});
    for (;;) {
        Json request;
        {
            std::unique_lock lock(mutex);
            arrived.wait(lock, [&] { return ended || !queue.empty(); });
            if (queue.empty())
                break;
            // Of several shape requests only the newest matters.
            request = std::move(queue.front());
            queue.pop_front();
            while (request.value("do", "") == "shape" && !queue.empty() &&
                   queue.front().value("do", "") == "shape") {
                request = std::move(queue.front());
                queue.pop_front();
            }
            if (!ended)
                progress.reset();
        }
        current = request.value("id", 0);
        const std::string what = request.value("do", "");
        try {
            if (what == "shape")
                shape(request);
            else if (what == "solve")
                solve(request, progress);
            else if (what == "step")
                step(request);
            else if (what == "mesh")
                mesh(request, progress);
            else if (what == "probe")
                probe(request);
            else
                send({{"event", "failed"},
                      {"id", current},
                      {"faults",
                       Json::array({{{"number", 7302},
                                     {"text", "the request '" + what + "' is not known"}}})}});
        } catch (const base::Cancelled&) {
            send({{"event", "cancelled"}, {"id", current}});
        } catch (...) {
            send({{"event", "failed"},
                  {"id", current},
                  {"faults", Json::parse(run::toJson(run::caught()))}});
        }
    }
    reader.join();
    return 0;
}

}  // namespace yh::solve
