// Edits of the sheet that come from the window: typed, drawn, clicked and dragged.
#include "app/main_window.h"

#include "app/scene_panel.h"
#include "app/text.h"
#include "sheet/line_reader.h"
#include "sheet/schema.h"
#include "sheet/sentence.h"
#include "sheet/topic.h"

#include <QJsonArray>
#include <QMenu>
#include <cmath>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {

std::string lengthText(double v)
{
    // What is drawn on a grid is a round number again.
    return base::format(v, base::dim::length, 6);
}

std::string pair(QPointF p)
{
    return lengthText(p.x()) + ", " + lengthText(p.y());
}

/** The points of a path, and the arcs among them. */
std::string pathText(const QVector<QPointF>& points, const QVector<int>& arcs)
{
    std::string text;
    for (int i = 0; i < int(points.size()); ++i) {
        if (arcs.contains(i + 1))
            continue;  // it is the point an arc goes through
        if (!text.empty())
            text += "; ";
        text += arcs.contains(i) ? "arc via " + pair(points[i - 1]) + " to " + pair(points[i])
                                 : pair(points[i]);
    }
    return text;
}

}  // namespace

void MainWindow::editField(int line, const QString& typedIn, const QString& text)
{
    QString field = typedIn;
    if (const sheet::Line* l = m_session->document().find(line))
        if (const sheet::Kind* kind = sheet::findKind(l->kind))
            if (const sheet::Slot* slot = kind->slot(field.toStdString()))
                if (const sheet::Slot* other = sheet::alternativeFor(
                        sheet::Model(m_session->document()).parameters().scope(), *kind, *slot,
                        text.toStdString())) {
                    field = qs(other->key);
                    say(tr("%1 is a %2: taken as that, in place of the %3")
                            .arg(text, translated(other->key), translated(slot->key)));
                }
    m_session->change([&](sheet::Document& d) {
        const sheet::Line* l = d.find(line);
        // A new name goes along wherever the old one is spoken of.
        const std::string old = field == "name"_L1 && l ? l->name() : std::string();
        d.set(line, field.toStdString(), text.toStdString());
        // Of two alternatives the one that is typed counts.
        const sheet::Kind* kind = l ? sheet::findKind(l->kind) : nullptr;
        if (const sheet::Slot* f = kind ? kind->slot(field.toStdString()) : nullptr;
            f && !f->insteadOf.empty() && !text.isEmpty())
            d.set(line, f->insteadOf, {});
        if (!old.empty() && !text.isEmpty())
            sheet::rename(d, old, text.toStdString());
    });
}

void MainWindow::composeLine(const QString& section, const QString& text)
{
    const sheet::Composed c = sheet::compose(text.toStdString(), m_session->document());
    if (section == "aim"_L1 && !c.ok) {
        m_session->change([&](sheet::Document& d) {
            d.add("aim", {{"text", text.toStdString()}});
        });
        return;
    }
    if (!c.ok) {
        say(qs(c.fault), true);
        return;
    }
    int added = -1;
    m_session->change([&](sheet::Document& d) {
        // A line of which there is only one takes the place of the old one.
        const sheet::Kind* kind = sheet::findKind(c.kind);
        if (const sheet::Line* old = kind->single ? d.first(c.kind) : nullptr) {
            added = old->id;
            for (const auto& [key, value] : c.values)
                d.set(added, key, value);
        } else {
            added = d.add(c.kind, c.values);
        }
    });
    m_sheet->select(added);
}

void MainWindow::addDrawn(Tool tool, const QVector<QPointF>& points, const QVector<int>& arcs)
{
    std::string kind;
    std::map<std::string, std::string> values;
    if (tool == Tool::rectangle) {
        kind = "rectangle";
        const QRectF r = QRectF(points[0], points[1]).normalized();
        if (r.width() <= 0 || r.height() <= 0)
            return;
        values = {{"width", lengthText(r.width())},
                  {"height", lengthText(r.height())},
                  {"at", pair(r.center())}};
    } else if (tool == Tool::disc) {
        kind = "disc";
        values = {{"radius", lengthText(std::hypot(points[1].x() - points[0].x(),
                                                   points[1].y() - points[0].y()))},
                  {"at", pair(points[0])}};
    } else if (tool == Tool::profile) {
        kind = "profile";
        values = {{"from", pair(points[0])}, {"to", pair(points[1])}};
    } else {
        kind = tool == Tool::path ? "path" : "thin line";
        const std::string text = pathText(points, arcs);
        values = {{"points", text}};
    }
    int added = -1;
    m_session->change([&](sheet::Document& d) {
        if (sheet::isShape(kind))
            values["name"] = d.freeName(kind == "thin line" ? "line" : kind);
        added = d.add(kind, values);
    });
    m_sheet->select(added);
}

void MainWindow::offerSide(int side, int solid, QPoint global)
{
    const SolidShape& shape = m_scene->solid()->shape();
    const QString rule = shape.sides[size_t(side)].rule;
    auto* menu = new QMenu(this);
    menu->setObjectName(u"sideCard"_s);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->addAction(tr("face  %1 …").arg(rule), this, [this, rule, side, global] {
        m_scene->solid()->setHighlight({}, {side}, -1);
        offerPlace(rule, true, -1, global);
    });
    if (solid >= 0) {
        const auto& s = shape.solids[size_t(solid)];
        menu->addAction(tr("region  %1 …").arg(s.name), this,
                        [this, solid, name = s.name, line = s.line, global] {
                            m_scene->solid()->setHighlight({solid}, {}, -1);
                            offerPlace(name, false, line, global);
                        });
        menu->addSeparator();
        menu->addAction(tr("hide %1").arg(s.name), this,
                        [this, solid] { m_scene->solid()->hideSolid(solid, true); });
        menu->addAction(tr("show %1 alone").arg(s.name), this,
                        [this, solid] { m_scene->solid()->isolate(solid); });
        menu->addAction(tr("show all"), this, [this] { m_scene->solid()->showAll(); });
    }
    menu->popup(global);
}

void MainWindow::addProfile(const std::array<double, 3>& from, const std::array<double, 3>& to)
{
    auto place = [](const std::array<double, 3>& p) {
        return lengthText(p[0]) + ", " + lengthText(p[1]) + ", " + lengthText(p[2]);
    };
    int added = -1;
    m_session->change([&](sheet::Document& d) {
        added = d.add("profile", {{"from", place(from)}, {"to", place(to)}});
    });
    m_sheet->select(added);
}

void MainWindow::offerBox(const std::set<int>& sides, const std::set<int>& solids, QPoint global)
{
    if (sides.empty())
        return;
    const SolidShape& shape = m_scene->solid()->shape();
    m_scene->solid()->setHighlight(solids, sides, -1);
    QStringList rules, names;
    for (const int s : sides)
        if (const QString& rule = shape.sides[size_t(s)].rule; !rules.contains(rule))
            rules << rule;
    for (const int s : solids)
        if (const QString& name = shape.solids[size_t(s)].name; !names.contains(name))
            names << name;
    auto* menu = new QMenu(this);
    menu->setObjectName(u"boxCard"_s);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->addAction(tr("%n face(s) …", nullptr, int(rules.size())), this, [this, rules, global] {
        offerPlace(rules.join(u" and "_s), true, -1, global);
    });
    if (!names.isEmpty()) {
        menu->addAction(
            tr("region  %1 …").arg(names.join(u" and "_s)), this,
            [this, names, global] { offerPlace(names.join(u" and "_s), false, -1, global); });
        menu->addSeparator();
        menu->addAction(tr("hide %1").arg(names.join(u", "_s)), this, [this, solids] {
            for (const int s : solids)
                m_scene->solid()->hideSolid(s, true);
        });
        menu->addAction(tr("show %1 alone").arg(names.join(u", "_s)), this, [this, solids] {
            SolidCanvas* canvas = m_scene->solid();
            for (int s = 0; s < int(canvas->shape().solids.size()); ++s)
                canvas->hideSolid(s, !solids.count(s));
        });
        menu->addAction(tr("show all"), this, [this] { m_scene->solid()->showAll(); });
    }
    menu->popup(global);
}

void MainWindow::offerLines(QMenu* menu, const QString& rule, bool edge)
{
    for (const sheet::Line& l : m_session->document().lines) {
        const sheet::Kind* k = sheet::findKind(l.kind);
        if (!k || k->section == "shape")
            continue;
        for (const sheet::Slot& f : k->entries)
            if (f.type == sheet::SlotType::place && !l.has(f.key)) {
                if (edge && l.kind == "material")
                    continue;
                menu->addAction(
                    tr("%1 %2").arg(qs(sheet::plainText(l)), rule), this,
                    [this, id = l.id, key = f.key, place = rule.toStdString()] {
                        m_session->change([&](sheet::Document& d) { d.set(id, key, place); });
                    });
            }
    }
}

void MainWindow::addAt(const std::string& kind, std::map<std::string, std::string> values,
                       const std::string& editField, const std::string& name)
{
    int added = -1;
    m_session->change([&](sheet::Document& d) {
        const sheet::Kind* k = sheet::findKind(kind);
        if (k->slot("name"))
            values["name"] = d.freeName(name.empty() ? kind : name);
        added = d.add(kind, values);
    });
    m_sheet->select(added);
    if (!editField.empty())
        m_sheet->edit(added, editField);
}

void MainWindow::offerPlace(const QString& rule, bool edge, int line, QPoint global)
{
    if (rule.isEmpty())
        return;
    auto* menu = new QMenu(this);
    menu->setObjectName(u"placeCard"_s);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    QAction* head = menu->addAction((edge ? tr("edge  ") : tr("region  ")) + rule);
    head->setEnabled(false);
    menu->addSeparator();
    const std::string place = rule.toStdString();
    auto addLine = [this](const std::string& kind, std::map<std::string, std::string> values,
                          const std::string& editField, const std::string& name) {
        addAt(kind, std::move(values), editField, name);
    };
    offerLines(menu, rule, edge);
    for (const sheet::Offer& o : sheet::topicOf(m_session->document()).offers)
        if (o.at == sheet::Offer::At::both || (o.at == sheet::Offer::At::sides) == edge)
            menu->addAction(translated(o.text), this, [addLine, place, o] {
                auto values = o.values;
                values[o.slot] = place;
                addLine(o.kind, values, o.edit, o.name);
            });
    if (edge)
        menu->addAction(tr("finer cells here …"), this, [addLine, place] {
            addLine("mesh size", {{"in", place}}, "size", {});
        });
    else
        menu->addAction(tr("material here …"), this, [addLine, place] {
            addLine("material", {{"in", place}}, "material", {});
        });
    if (line >= 0)
        menu->addAction(tr("show its line"), this, [this, line] { m_sheet->select(line); });
    menu->popup(global);
}

void MainWindow::updateHandles()
{
    Handles h;
    const sheet::Line* l = m_session->document().find(m_sheet->selectedLine());
    auto literal = [&](const char* key) {
        for (const auto& part : base::splitOutsideBrackets(l->get(key), ','))
            if (!base::Expression(part.text).names().empty())
                return false;
        return true;
    };
    if (l && (l->kind == "rectangle" || l->kind == "disc") && !l->has("copies")) {
        const sheet::Model model(m_session->document());
        if (model.slotFaults(*l).empty()) {
            const sheet::Point c = model.point(*l, "at");
            h.line = l->id;
            h.disc = l->kind == "disc";
            h.centre = {c.x, c.y};
            h.halfWidth = h.disc ? model.number(*l, "radius") : model.number(*l, "width") / 2;
            h.halfHeight = h.disc ? h.halfWidth : model.number(*l, "height") / 2;
            h.canMove = literal("at");
            h.canSizeX = literal(h.disc ? "radius" : "width");
            h.canSizeY = !h.disc && literal("height");
        }
    }
    m_scene->canvas()->setHandles(h);
}

void MainWindow::dragHandle(int line, QPointF c, double halfWidth, double halfHeight)
{
    m_session->change([&](sheet::Document& d) {
        const sheet::Line* l = d.find(line);
        if (!l)
            return;
        const sheet::Model model(d);
        const sheet::Point old = model.point(*l, "at");
        if (old.x != c.x() || old.y != c.y())
            d.set(line, "at", lengthText(c.x()) + ", " + lengthText(c.y()));
        if (l->kind == "disc") {
            if (model.number(*l, "radius") != halfWidth)
                d.set(line, "radius", lengthText(halfWidth));
            return;
        }
        if (model.number(*l, "width") != 2 * halfWidth)
            d.set(line, "width", lengthText(2 * halfWidth));
        if (model.number(*l, "height") != 2 * halfHeight)
            d.set(line, "height", lengthText(2 * halfHeight));
    });
}

void MainWindow::highlight(int line, const std::string& field)
{
    std::set<int> faces, edges;
    const QJsonObject fields = m_places[QString::number(line)].toObject();
    for (auto it = fields.begin(); it != fields.end(); ++it) {
        if (!field.empty() && it.key() != qs(field) && fields.contains(qs(field)))
            continue;
        for (const QJsonValue& f : it.value()["faces"_L1].toArray())
            faces.insert(f.toInt());
        for (const QJsonValue& x : it.value()["edges"_L1].toArray())
            edges.insert(x.toInt());
    }
    m_scene->canvas()->setHighlight(faces, edges, line);
    m_scene->solid()->setHighlight(faces, edges, line);
    m_scene->diagram()->setHighlight(line);
}

}  // namespace yh::app
