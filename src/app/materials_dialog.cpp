#include "app/materials_dialog.h"

#include "app/text.h"
#include "app/theme.h"
#include "base/quantity.h"
#include "sheet/materials.h"
#include "sheet/topic.h"

#include <QDialogButtonBox>
#include <QDir>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSaveFile>
#include <QStandardPaths>
#include <QTableWidget>
#include <QVBoxLayout>
#include "app/plot.h"

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {

QString number(double v, const base::Dimension& d)
{
    return v == 0 ? QString() : qs(base::format(v, d, 4));
}

}  // namespace

QString PersonalMaterials::path()
{
    return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + u"/materials.json"_s;
}

std::vector<PersonalMaterials::Values> PersonalMaterials::load()
{
    std::vector<Values> list;
    QFile f(path());
    if (!f.open(QIODevice::ReadOnly))
        return list;
    for (const QJsonValue& v : QJsonDocument::fromJson(f.readAll()).array()) {
        Values values;
        const QJsonObject o = v.toObject();
        for (auto it = o.begin(); it != o.end(); ++it)
            values[it.key().toStdString()] = it.value().toString().toStdString();
        if (values.count("material"))
            list.push_back(values);
    }
    return list;
}

bool PersonalMaterials::write(const std::vector<Values>& list)
{
    QDir().mkpath(QFileInfo(path()).path());
    QJsonArray all;
    for (const Values& v : list) {
        QJsonObject o;
        for (const auto& [key, value] : v)
            o[qs(key)] = qs(value);
        all.append(o);
    }
    QSaveFile f(path());
    return f.open(QIODevice::WriteOnly) && f.write(QJsonDocument(all).toJson()) > 0 && f.commit();
}

bool PersonalMaterials::keep(const sheet::Line& line)
{
    std::vector<Values> list = load();
    Values values = line.values;
    values.erase("in");
    std::erase_if(list, [&](const Values& v) { return v.at("material") == values["material"]; });
    list.insert(list.begin(), values);
    return write(list);
}

bool PersonalMaterials::remove(const std::string& name)
{
    std::vector<Values> list = load();
    std::erase_if(list, [&](const Values& v) { return v.at("material") == name; });
    return write(list);
}

MaterialsDialog::MaterialsDialog(QWidget* parent) : QDialog(parent)
{
    setObjectName(u"materialsDialog"_s);
    setWindowTitle(tr("Materials"));
    resize(1060, 660);
    auto* column = new QVBoxLayout(this);
    m_search = new QLineEdit(this);
    m_search->setObjectName(u"materialSearch"_s);
    m_search->setPlaceholderText(tr("search by name, such as copper or ceramic"));
    m_search->setClearButtonEnabled(true);
    column->addWidget(m_search);
    m_table = new QTableWidget(this);
    m_table->setObjectName(u"materialTable"_s);
    m_table->setColumnCount(8);
    m_table->setHorizontalHeaderLabels({tr("material"), tr("ε"), tr("resistivity"), tr("k"),
                                        tr("density"), tr("heat capacity"), tr("Seebeck"),
                                        tr("up to")});
    m_table->verticalHeader()->hide();
    m_table->setShowGrid(false);
    m_table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    m_table->setSelectionBehavior(QAbstractItemView::SelectRows);
    m_table->setSelectionMode(QAbstractItemView::SingleSelection);
    m_table->setFont(numberFont(8.75));
    m_table->setAccessibleName(tr("Materials and their properties at 20 °C"));
    column->addWidget(m_table, 1);
    auto* below = new QHBoxLayout;
    m_plot = new QCustomPlot(this);
    m_plot->setMinimumHeight(150);
    m_values = new QTableWidget(this);
    m_values->setObjectName(u"materialValues"_s);
    m_values->setColumnCount(4);
    m_values->setHorizontalHeaderLabels(
        {tr("property"), tr("value"), tr("holds at"), tr("source")});
    m_values->verticalHeader()->hide();
    m_values->setShowGrid(false);
    m_values->setEditTriggers(QAbstractItemView::NoEditTriggers);
    m_values->setSelectionMode(QAbstractItemView::NoSelection);
    m_values->setMinimumHeight(210);
    m_values->horizontalHeader()->setStretchLastSection(true);
    m_values->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_values->setAccessibleName(tr("Every value of the material, where it holds and its source"));
    below->addWidget(m_values, 3);
    below->addWidget(m_plot, 2);
    column->addLayout(below);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close, this);
    m_use = buttons->addButton(tr("Add to the sheet"), QDialogButtonBox::ActionRole);
    m_use->setObjectName(u"materialUse"_s);
    m_drop = buttons->addButton(tr("Remove from mine"), QDialogButtonBox::ActionRole);
    m_drop->setObjectName(u"materialDrop"_s);
    column->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(m_search, &QLineEdit::textChanged, this, &MaterialsDialog::fill);
    connect(m_table, &QTableWidget::currentCellChanged, this, [this](int row) { show(row); });
    connect(m_use, &QPushButton::clicked, this, [this] {
        if (m_table->currentRow() < 0)
            return;
        Q_EMIT chosen(valuesOf(m_table->currentRow()));
        accept();
    });
    connect(m_table, &QTableWidget::cellDoubleClicked, m_use, &QPushButton::click);
    connect(m_drop, &QPushButton::clicked, this, [this] {
        if (m_table->currentRow() >= 0 &&
            PersonalMaterials::remove(valuesOf(m_table->currentRow())["material"])) {
            m_own = PersonalMaterials::load();
            fill();
        }
    });
    const Theme& t = theme();
    m_plot->setBackground(QBrush(t.sheet));
    for (QCPAxis* a : {m_plot->xAxis, m_plot->yAxis}) {
        a->setBasePen(QPen(t.line));
        a->setTickPen(QPen(t.line));
        a->setSubTickPen(Qt::NoPen);
        a->setTickLabelColor(t.muted);
        a->setLabelColor(t.muted);
        a->setTickLabelFont(numberFont(8));
        a->setLabelFont(textFont(8.75));
        a->grid()->setPen(QPen(t.line));
    }
    m_own = PersonalMaterials::load();
    fill();
}

void MaterialsDialog::addRow(const QStringList& cells, int own)
{
    const int row = m_table->rowCount();
    m_table->insertRow(row);
    for (int c = 0; c < cells.size(); ++c)
        m_table->setItem(row, c, new QTableWidgetItem(cells[c]));
    m_table->item(row, 0)->setData(Qt::UserRole, own);
    if (own >= 0)
        m_table->item(row, 0)->setText(cells[0] + tr("  (mine)"));
}

void MaterialsDialog::fill()
{
    const QString wanted = m_search->text().trimmed();
    m_table->setRowCount(0);
    auto add = [this](const QStringList& cells, int own) { addRow(cells, own); };
    for (size_t i = 0; i < m_own.size(); ++i) {
        auto get = [&](const char* key) {
            const auto it = m_own[i].find(key);
            return it == m_own[i].end() ? QString() : qs(it->second);
        };
        if (get("material").contains(wanted, Qt::CaseInsensitive))
            add({get("material"), get("eps"),
                 get("sigma").isEmpty() ? QString() : u"σ "_s + get("sigma"), get("k"),
                 get("density"), get("heatCapacity"), get("seebeck"), get("limit")},
                int(i));
    }
    namespace dim = base::dim;
    for (const sheet::Material& m : sheet::materials()) {
        // A conductor has no permittivity, an insulator no resistivity.
        const QString words = qs(m.name) + (m.gas ? tr(" gas") : QString()) +
                              (m.conductor ? tr(" metal conductor") : tr(" insulator"));
        if (!words.contains(wanted, Qt::CaseInsensitive))
            continue;
        add({qs(m.name), m.eps > 0 ? qs(base::formatNumber(m.eps, 5)) : QString(),
             number(m.resistivity, dim::resistivity), number(m.k, dim::thermalConductivity),
             number(m.density, dim::density), number(m.c, dim::heatCapacity),
             number(m.seebeck, dim::seebeck), number(m.limit, dim::temperature)},
            -1);
    }
    // What only one field knows, beside what all do.
    for (const sheet::TopicMaterial& m : sheet::topicMaterials())
        if (!sheet::findMaterial(m.name) &&
            (qs(m.name) + u' ' + qs(m.help)).contains(wanted, Qt::CaseInsensitive))
            add({qs(m.name), {}, {}, {}, {}, {}, {}, {}}, -1);
    m_table->resizeColumnsToContents();
    m_table->setCurrentCell(m_table->rowCount() > 0 ? 0 : -1, 0);
    show(m_table->currentRow());
}

PersonalMaterials::Values MaterialsDialog::valuesOf(int row) const
{
    const QTableWidgetItem* item = m_table->item(row, 0);
    const int own = item->data(Qt::UserRole).toInt();
    if (own >= 0)
        return m_own[size_t(own)];
    return {{"material", item->text().toStdString()}};
}

void MaterialsDialog::show(int row)
{
    m_plot->clearPlottables();
    m_plot->clearItems();
    m_use->setEnabled(row >= 0);
    const auto values = row >= 0 ? valuesOf(row) : PersonalMaterials::Values();
    m_drop->setEnabled(row >= 0 && m_table->item(row, 0)->data(Qt::UserRole).toInt() >= 0);
    const sheet::Material* m =
        row >= 0 && values.size() == 1 ? sheet::findMaterial(values.at("material")) : nullptr;
    const bool curve = m && m->resistivity > 0;
    m_plot->xAxis->setVisible(curve);
    m_plot->yAxis->setVisible(curve);
    m_plot->setVisible(curve);
    m_values->setRowCount(0);
    auto state = [this](const QString& property, const QString& value, const QString& holds,
                        const QString& source) {
        const int at = m_values->rowCount();
        m_values->insertRow(at);
        int column = 0;
        for (const QString& text : {property, value, holds, source}) {
            auto* item = new QTableWidgetItem(text);
            item->setToolTip(text);
            if (column == 1)
                item->setFont(numberFont(8.75));
            m_values->setItem(at, column++, item);
        }
    };
    if (m)
        for (const sheet::Statement& x : sheet::statements(*m))
            state(qs(x.property), qs(x.value), qs(x.holds), qs(x.source));
    const auto known = sheet::topicMaterials();
    bool isKnown = m != nullptr;
    for (const sheet::TopicMaterial& t : known)
        if (row >= 0 && values.size() == 1 && t.name == values.at("material")) {
            isKnown = true;
            for (const sheet::Statement& x : t.statements)
                state(qs(x.property), qs(x.value), qs(x.holds), qs(x.source));
        }
    if (!isKnown)
        for (const auto& [key, value] : values)
            if (key != "material")
                state(qs(key), qs(value), {}, tr("yours"));
    m_values->resizeColumnsToContents();
    m_values->resizeRowsToContents();
    if (curve) {
        constexpr double low = 223.15, high = 523.15;  // the range of the straight line, K
        QVector<double> T, rho;
        for (int i = 0; i <= 60; ++i) {
            const double t = low + (high - low) * i / 60;
            T << t - 273.15;
            rho << m->resistivity * (1 + m->alpha * (t - 293.15)) * 1e8;
        }
        QCPGraph* g = m_plot->addGraph();
        g->setPen(QPen(theme().plum, 2));
        g->setData(T, rho, true);
        m_plot->xAxis->setLabel(tr("temperature / °C"));
        m_plot->yAxis->setLabel(tr("resistivity / 10⁻⁸ Ω m"));
        m_plot->rescaleAxes();
        m_plot->yAxis->setRangeLower(0);
    }
    m_plot->replot(QCustomPlot::rpQueuedReplot);
}

}  // namespace yh::app
