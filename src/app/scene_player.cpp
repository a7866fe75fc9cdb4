// The player under the scene: courses over time, and the phase of what alternates.
#include "app/scene_panel.h"
#include "app/theme.h"

#include "base/constants.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QSlider>
#include <QTimer>
#include <QToolButton>
#include <algorithm>
#include <cmath>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace dim = base::dim;

void ScenePanel::connectPlayer()
{
    connect(m_play, &QToolButton::toggled, this, [this](bool on) {
        m_play->setText(on ? tr("pause") : tr("play"));
        if (on && playsPhase()) {
            showPhase();
        } else if (on && m_timeAt->value() == m_timeAt->maximum()) {
            m_timeAt->setValue(0);
        }
        on ? m_ticks->start() : m_ticks->stop();
    });
    connect(m_ticks, &QTimer::timeout, this, [this] {
        constexpr int tick = 12;
        const int next = m_timeAt->value() + tick;
        // A period goes round, a course ends.
        m_timeAt->setValue(playsPhase() ? next % m_timeAt->maximum() : next);
        if (!playsPhase() && m_timeAt->value() == m_timeAt->maximum())
            m_play->setChecked(false);
    });
    connect(m_timeAt, &QSlider::valueChanged, this, &ScenePanel::showTime);
}

void ScenePanel::buildPlayer()
{
    m_player = new QWidget(this);
    m_player->setObjectName(u"player"_s);
    auto* row = new QHBoxLayout(m_player);
    row->setContentsMargins(12, 2, 12, 2);
    m_play = new QToolButton(m_player);
    m_play->setObjectName(u"play"_s);
    m_play->setProperty("lens", true);
    m_play->setCheckable(true);
    m_play->setText(tr("play"));
    m_play->setAccessibleName(tr("Play the course over time"));
    m_timeAt = new QSlider(Qt::Horizontal, m_player);
    m_timeAt->setObjectName(u"timeAt"_s);
    m_timeAt->setAccessibleName(tr("Time"));
    m_timeAt->setRange(0, 1000);
    m_timeText = new QLabel(m_player);
    m_timeText->setObjectName(u"timeText"_s);
    m_timeText->setFont(numberFont(8.75));
    m_timeText->setMinimumWidth(90);
    row->addWidget(m_play);
    row->addWidget(m_timeAt, 1);
    row->addWidget(m_timeText);
    m_player->hide();
    m_ticks = new QTimer(this);
    m_ticks->setInterval(60);
    connectPlayer();
}

const std::vector<double>& ScenePanel::times() const
{
    static const std::vector<double> none;
    return m_field && !m_field->isEmpty() ? m_field->times() : none;
}

std::optional<double> ScenePanel::shownTime() const
{
    if (times().size() < 2)
        return std::nullopt;
    return times().back() * m_timeAt->value() / m_timeAt->maximum();
}

void ScenePanel::setTime(double seconds)
{
    if (!times().empty())
        m_timeAt->setValue(int(std::lround(1000 * seconds / times().back())));
}

bool ScenePanel::playsPhase() const
{
    return times().size() < 2 && m_field && !m_field->isEmpty() && m_field->hasPhase();
}

void ScenePanel::spanPeriod()
{
    // Two moments a quarter apart hold the strongest values, within a factor of 1.4.
    const Lens lens = current().lens;
    double low = 0, high = 0;
    for (const double angle : {0.0, 0.5 * base::pi}) {
        m_field->setPhase(angle);
        const auto d = m_field->distribution(lens);
        low = std::min(low, d.low);
        high = std::max(high, d.high);
    }
    // What takes both signs does so alike.
    m_high = std::max(high, -low);
    m_low = low < 0 ? -m_high : 0.0;
    m_spanned = m_quantity;
}

void ScenePanel::showPhase()
{
    if (m_spanned != m_quantity)
        spanPeriod();
    constexpr double turn = 2 * base::pi;
    const double share = double(m_timeAt->value()) / m_timeAt->maximum();
    m_timeText->setText(tr("phase %1°").arg(std::lround(360 * share)));
    m_field->setPhase(turn * share);
    m_distribution = m_field->distribution(current().lens);
    m_distribution.least = std::min(m_distribution.least, m_low);
    m_distribution.largest = std::max(m_distribution.largest, m_high);
    applyRuler();
    m_solid->fieldChanged();
    m_canvas->update();
}

void ScenePanel::spanBothSigns(double low, double high)
{
    // What takes both signs does so alike; a quarter of the strongest, so that echoes are seen.
    constexpr double share = 0.25;
    m_high = share * std::max(-low, high);
    m_low = -m_high;
}

void ScenePanel::showTime()
{
    if (playsPhase())
        showPhase();
    if (times().size() < 2)
        return;
    const double t = shownTime().value_or(0);
    m_field->setTime(t);
    m_timeText->setText(QString::fromStdString(base::format(t, dim::time, 4)));
    // The colours keep to the range of all times, so that the course can be seen.
    if (current().lens.array != m_field->overTime()) {
        m_quantity = m_field->overTime();
        applyLens(true);
    }
    const auto [low, high] = m_field->rangeOverTime();
    if (low < 0 && high > 0) {
        spanBothSigns(low, high);
    } else {
        m_low = low;
        m_high = high;
    }
    m_distribution = m_field->distribution(current().lens);
    m_distribution.least = low;
    m_distribution.largest = high;
    applyRuler();
    m_solid->fieldChanged();
    m_canvas->update();
}

}  // namespace yh::app
