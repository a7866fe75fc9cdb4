#include "app/import_dialog.h"

#include "app/scene_canvas.h"
#include "app/solid_canvas.h"
#include "app/solver_client.h"
#include "app/theme.h"
#include "base/quantity.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QFileInfo>
#include <QFormLayout>
#include <QJsonArray>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QRegularExpression>
#include <QStackedWidget>
#include <QVBoxLayout>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {

/// A name for the line, from the name of the file.
std::string nameFrom(const QString& file)
{
    QString n = QFileInfo(file).completeBaseName();
    n.replace(QRegularExpression(u"[^A-Za-z0-9_]"_s), u"_"_s);
    if (n.isEmpty() || !n[0].isLetter())
        n.prepend(u"part_"_s);
    return n.toStdString();
}

}  // namespace

bool ImportDialog::canRead(const QString& file)
{
    static const QStringList endings{u"dxf"_s, u"step"_s, u"stp"_s,  u"brep"_s,
                                     u"stl"_s, u"gds"_s,  u"gds2"_s, u"png"_s};
    return endings.contains(QFileInfo(file).suffix().toLower());
}

ImportDialog::Kind ImportDialog::kindOf(const QString& file)
{
    const QString ending = QFileInfo(file).suffix().toLower();
    return ending.startsWith(u"gds"_s) ? Kind::layout
           : ending == u"png"_s        ? Kind::picture
                                       : Kind::shape;
}

QString ImportDialog::filter()
{
    return tr("Shapes (*.step *.stp *.brep *.stl *.dxf *.gds *.png)");
}

ImportDialog::ImportDialog(const QString& file, const std::string& space, QWidget* parent)
    : QDialog(parent), m_file(file), m_space(space.empty() ? "plane" : space), m_kind(kindOf(file))
{
    setObjectName(u"importDialog"_s);
    setWindowTitle(tr("Import %1").arg(QFileInfo(file).fileName()));
    resize(560, 520);
    auto* column = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    m_unit = new QComboBox(this);
    m_unit->setObjectName(u"importUnit"_s);
    for (const char* u : {"1 mm", "1 um", "1 nm", "1 cm", "1 m", "25.4 mm"})
        m_unit->addItem(QString::fromLatin1(u) == "25.4 mm"_L1 ? tr("1 inch (25.4 mm)")
                                                               : QString::fromLatin1(u),
                        QString::fromLatin1(u));
    auto typed = [&](const char* slot, const QString& label, const QString& value) {
        auto* edit = new QLineEdit(value, this);
        QString name = QString::fromLatin1(slot);
        name[0] = name[0].toUpper();
        edit->setObjectName(u"import"_s + name);
        form->addRow(label, edit);
        m_typed[slot] = edit;
    };
    switch (m_kind) {
        case Kind::shape:
            form->addRow(tr("One unit of the file is"), m_unit);
            break;
        case Kind::layout:
            typed("layer", tr("Layer"), u"1"_s);
            break;
        case Kind::picture:
            typed("from", tr("Grey levels from (0 is black)"), u"0"_s);
            typed("to", tr("to (255 is white)"), u"127"_s);
            typed("width", tr("Width of the whole picture"), u"10 mm"_s);
            break;
    }
    if (m_kind != Kind::shape) {
        m_unit->hide();
        if (m_space == "solid")
            typed("high", tr("Height"), m_kind == Kind::layout ? u"1 um"_s : u"1 mm"_s);
    }
    column->addLayout(form);
    m_pictures = new QStackedWidget(this);
    m_flat = new SceneCanvas(m_pictures);
    m_solid = new SolidCanvas(m_pictures);
    m_pictures->addWidget(m_flat);
    m_pictures->addWidget(m_solid);
    m_pictures->setCurrentWidget(m_space == "solid" ? static_cast<QWidget*>(m_solid) : m_flat);
    column->addWidget(m_pictures, 1);
    m_size = new QLabel(tr("reading …"), this);
    m_size->setObjectName(u"importSize"_s);
    m_size->setWordWrap(true);
    column->addWidget(m_size);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel, this);
    m_accept = buttons->addButton(tr("Import"), QDialogButtonBox::AcceptRole);
    m_accept->setObjectName(u"importAccept"_s);
    m_accept->setEnabled(false);
    column->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    m_client = new SolverClient(this);
    connect(m_client, &SolverClient::event, this, &ImportDialog::show);
    connect(m_client, &SolverClient::died, this,
            [this](const QString& why) { m_size->setText(why); });
    connect(m_unit, &QComboBox::currentIndexChanged, this, &ImportDialog::preview);
    for (const auto& [slot, edit] : m_typed)
        connect(edit, &QLineEdit::editingFinished, this, &ImportDialog::preview);
    preview();
}

sheet::Line ImportDialog::line(const std::string& name) const
{
    sheet::Line l;
    l.kind = m_kind == Kind::layout ? "layout" : m_kind == Kind::picture ? "picture" : "import";
    l.values = {{"name", name}, {"file", m_file.toStdString()}};
    for (const auto& [slot, edit] : m_typed)
        l.values[slot] = edit->text().toStdString();
    if (m_kind == Kind::shape)
        l.values["unit"] = m_unit->currentData().toString().toStdString();
    return l;
}

void ImportDialog::addTo(sheet::Document& document) const
{
    const sheet::Line l = line(document.freeName(nameFrom(m_file)));
    document.add(l.kind, l.values);
}

void ImportDialog::preview()
{
    sheet::Document d;
    d.add("space", {{"type", m_space}});
    const sheet::Line l = line("part");
    d.add(l.kind, l.values);
    m_accept->setEnabled(false);
    m_request = m_client->send({{u"do"_s, u"shape"_s},
                                {u"sheet"_s, QString::fromStdString(sheet::write(d))},
                                {u"folder"_s, QFileInfo(m_file).path()}});
}

std::vector<double> ImportDialog::showShape(const QJsonObject& e)
{
    std::vector<double> extents;
    if (m_space == "solid") {
        SolidShape shape = SolidShape::fromJson(e);
        for (size_t k = 0; k < 3; ++k)
            extents.push_back(shape.high[k] - shape.low[k]);
        m_solid->setShape(std::move(shape));
    } else {
        SceneShape shape = SceneShape::fromJson(e);
        extents = {shape.box.width(), shape.box.height()};
        m_flat->setShape(std::move(shape));
        m_flat->fit();
    }
    return extents;
}

void ImportDialog::show(const QJsonObject& e)
{
    if (e["event"_L1] != "shape"_L1 || e["id"_L1].toInt() != m_request)
        return;
    const Theme& t = theme();
    auto say = [&](const QString& text, const QColor& colour) {
        m_size->setText(text);
        m_size->setStyleSheet(u"color: %1;"_s.arg(colour.name()));
    };
    if (e.contains("failed"_L1)) {
        say(e["failed"_L1].toString(), t.bad);
        return;
    }
    const std::vector<double> extents = showShape(e);
    QStringList parts;
    double largest = 0;
    for (const double x : extents) {
        parts << QString::fromStdString(base::format(x, base::dim::length, 4));
        largest = std::max(largest, x);
    }
    const QString size = parts.join(u" × "_s);
    // Devices of this kind are between some nanometres and some metres wide.
    constexpr double huge = 20, tiny = 20e-9;
    if (largest > huge)
        say(tr("%1 large: was a smaller unit meant?").arg(size), t.warning);
    else if (largest < tiny)
        say(tr("%1 small: was a larger unit meant?").arg(size), t.warning);
    else
        say(size, t.ink);
    m_accept->setEnabled(true);
}

}  // namespace yh::app
