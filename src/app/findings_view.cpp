#include "app/findings_view.h"

#include "app/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <functional>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {

/// A label that can be clicked and reached by keyboard.
class ClickLabel : public QLabel
{
public:
    ClickLabel(const QString& text, std::function<void(QPoint)> clicked)
        : QLabel(text), m_clicked(std::move(clicked))
    {
        setCursor(Qt::PointingHandCursor);
        setFocusPolicy(Qt::TabFocus);
    }

protected:
    void mousePressEvent(QMouseEvent* e) override { m_clicked(e->globalPosition().toPoint()); }
    void keyPressEvent(QKeyEvent* e) override
    {
        if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Space)
            m_clicked(mapToGlobal(rect().center()));
        else
            QLabel::keyPressEvent(e);
    }

private:
    std::function<void(QPoint)> m_clicked;
};

QString coloured(const QLabel*, const QColor& c)
{
    return u"color: %1;"_s.arg(c.name());
}

QLabel* heading(const QString& text)
{
    auto* l = new QLabel(text.toUpper());
    QFont f = textFont(8.25, QFont::DemiBold);
    f.setLetterSpacing(QFont::AbsoluteSpacing, 0.9);
    l->setFont(f);
    l->setStyleSheet(coloured(l, theme().plum));
    l->setContentsMargins(0, 9, 0, 3);
    return l;
}

/** The scale: the band with room on both sides, wide enough for value and whisker. */
std::array<double, 2> scaleOf(const GaugeView& view)
{
    double low = view.bandLow, high = view.bandHigh;
    if (!(high > low)) {
        low = view.value - 3 * view.error;
        high = view.value + 3 * view.error;
    }
    low = std::min(low, view.value - view.error);
    high = std::max(high, view.value + (view.noLimit ? 0 : view.error));
    const double room = 0.15 * (high - low);
    low -= room;
    high += room;
    return {low, high};
}

}  // namespace

WhiskerGauge::WhiskerGauge(QWidget* parent) : QWidget(parent)
{
    setFixedHeight(16);
}

void WhiskerGauge::setView(const GaugeView& view)
{
    m_view = view;
    update();
}

void WhiskerGauge::paintEvent(QPaintEvent*)
{
    const Theme& t = theme();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const double mid = height() / 2.0;
    const auto [low, high] = scaleOf(m_view);
    auto x = [this, low = low, high = high](double v) {
        return 4 + (high > low ? (v - low) / (high - low) : 0.5) * (width() - 8);
    };
    const QColor c = m_view.good ? t.good : t.warning;
    QColor band = t.good;
    band.setAlphaF(t.dark ? 0.28f : 0.13f);
    if (m_view.bandHigh > m_view.bandLow)
        p.fillRect(QRectF(x(m_view.bandLow), mid - 4, x(m_view.bandHigh) - x(m_view.bandLow), 8),
                   band);
    else
        p.fillRect(QRectF(4, mid - 0.5, width() - 8, 1), t.line);
    p.setPen(QPen(t.ink, 2));
    const double half =
        m_view.noLimit ? 0 : std::max(x(m_view.value + m_view.error) - x(m_view.value), 2.5);
    p.drawLine(QPointF(x(m_view.value) - half, mid), QPointF(x(m_view.value) + half, mid));
    if (m_view.noLimit) {
        p.drawLine(QPointF(x(m_view.value), mid), QPointF(width() - 8, mid));
        p.drawLine(QPointF(width() - 13, mid - 4), QPointF(width() - 8, mid));
        p.drawLine(QPointF(width() - 13, mid + 4), QPointF(width() - 8, mid));
    }
    p.setPen(Qt::NoPen);
    p.setBrush(m_view.good ? t.plum : c);
    p.drawEllipse(QPointF(x(m_view.value), mid), 3.6, 3.6);
}

FindingsView::FindingsView(QWidget* parent) : QWidget(parent)
{
    setObjectName(u"findings"_s);
    setAccessibleName(tr("Findings"));
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 0, 0, 0);
    auto* scroll = new QScrollArea(this);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_page = new QWidget;
    m_page->setObjectName(u"findingsPage"_s);
    m_layout = new QVBoxLayout(m_page);
    m_layout->setContentsMargins(12, 4, 12, 12);
    m_layout->setSpacing(1);
    scroll->setWidget(m_page);
    outer->addWidget(scroll);
}

void FindingsView::paintEvent(QPaintEvent*)
{
    QPainter p(this);
    p.fillRect(rect(), theme().sheet);
}

void FindingsView::add(QWidget* widget)
{
    m_layout->addWidget(widget);
}

void FindingsView::setView(const std::vector<FindingView>& findings,
                           const std::vector<CheckView>& checks, const QString& stale)
{
    while (QLayoutItem* i = m_layout->takeAt(0)) {
        if (i->widget())
            i->widget()->deleteLater();
        delete i;
    }
    const Theme& t = theme();
    m_page->setStyleSheet(u"#findingsPage { background: %1; }"_s.arg(t.sheet.name()));
    add(heading(tr("Findings")));
    if (!stale.isEmpty()) {
        auto* l = new QLabel(stale);
        l->setObjectName(u"stale"_s);
        l->setWordWrap(true);
        l->setStyleSheet(u"color: %1; background: %2; border-radius: 4px; padding: 4px 6px;"_s.arg(
            t.warning.name(), t.chip.name()));
        add(l);
    }
    if (findings.empty()) {
        auto* l = new QLabel(tr("Nothing solved yet. Complete the sheet and press Solve (F5)."));
        l->setWordWrap(true);
        l->setStyleSheet(coloured(l, t.muted));
        add(l);
    }
    for (const FindingView& f : findings) {
        auto* card = new QWidget;
        card->setObjectName(u"finding"_s);
        auto* column = new QVBoxLayout(card);
        column->setContentsMargins(0, 6, 0, 6);
        column->setSpacing(1);
        auto* top = new QHBoxLayout;
        auto* label =
            new ClickLabel(f.label, [this, line = f.line](QPoint) { Q_EMIT findingClicked(line); });
        label->setFont(textFont(9));
        label->setWordWrap(true);
        label->setStyleSheet(coloured(label, t.muted));
        auto* status = new QLabel(f.status);
        status->setFont(textFont(9));
        status->setStyleSheet(
            coloured(status, f.met ? (f.status == tr("met") ? t.good : t.muted) : t.warning));
        top->addWidget(label, 1);
        top->addWidget(status, 0, Qt::AlignTop);
        column->addLayout(top);
        if (f.rows.isEmpty() && !f.value.isEmpty()) {
            auto* number = new ClickLabel(
                u"<span style='font-size:13pt; font-weight:600'>%1&nbsp;%2</span>&nbsp;&nbsp;<span style='color:%4'>%3</span>"_s
                    .arg(f.value, f.unit, f.error.isEmpty() ? QString() : u"±&nbsp;"_s + f.error,
                         t.muted.name()),
                [this, line = f.line](QPoint at) { Q_EMIT unitRequested(line, at); });
            number->setObjectName(u"findingValue"_s);
            number->setFont(numberFont(9));
            number->setToolTip(tr("Click to choose the unit"));
            number->setAccessibleName(f.label + u' ' + f.value + u' ' + f.unit +
                                      (f.error.isEmpty() ? QString() : u" ± "_s + f.error));
            column->addWidget(number);
        }
        for (const QString& row : f.rows) {
            auto* r = new QLabel(row);
            r->setFont(numberFont(8));
            r->setTextInteractionFlags(Qt::TextSelectableByMouse);
            column->addWidget(r);
        }
        if (f.hasGauge) {
            auto* gauge = new WhiskerGauge;
            gauge->setView(f.gauge);
            gauge->setToolTip(tr("dot: value; bar: numerical error; green: what was asked for"));
            column->addWidget(gauge);
        }
        if (!f.note.isEmpty()) {
            auto* note = new QLabel(f.note);
            note->setWordWrap(true);
            note->setFont(textFont(8.75));
            note->setStyleSheet(coloured(note, f.met ? t.muted : t.warning));
            column->addWidget(note);
        }
        add(card);
        auto* rule = new QWidget;
        rule->setFixedHeight(1);
        rule->setStyleSheet(u"background: %1;"_s.arg(t.line.name()));
        add(rule);
    }
    if (!checks.empty())
        add(heading(tr("Checks")));
    for (const CheckView& c : checks) {
        auto* row = new QWidget;
        auto* line = new QHBoxLayout(row);
        line->setContentsMargins(0, 3, 0, 3);
        line->setSpacing(7);
        const QString signs[] = {u"✓"_s, u"·"_s, u"!"_s, u"✗"_s};
        const QColor colours[] = {t.good, t.muted, t.warning, t.bad};
        auto* sign = new QLabel(signs[std::clamp(c.state, 0, 3)]);
        sign->setFixedWidth(10);
        sign->setStyleSheet(
            u"color: %1; font-weight: 700;"_s.arg(colours[std::clamp(c.state, 0, 3)].name()));
        auto* text =
            new ClickLabel(c.text, [this, index = c.index](QPoint) { Q_EMIT checkClicked(index); });
        text->setWordWrap(true);
        text->setFont(textFont(9.2));
        line->addWidget(sign, 0, Qt::AlignTop);
        line->addWidget(text, 1);
        if (!c.proposal.isEmpty()) {
            auto* take = new QPushButton(tr("Add"));
            take->setObjectName(u"proposal"_s);
            take->setToolTip(tr("Adds the line %1 (undo takes it back)").arg(c.proposal));
            take->setAccessibleName(take->toolTip());
            take->setFont(textFont(8.75));
            connect(take, &QPushButton::clicked, this,
                    [this, proposal = c.proposal] { Q_EMIT proposalTaken(proposal); });
            line->addWidget(take, 0, Qt::AlignTop);
        }
        add(row);
    }
    m_layout->addStretch(1);
}

}  // namespace yh::app
