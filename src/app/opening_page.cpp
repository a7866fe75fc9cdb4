#include "app/opening_page.h"

#include "app/text.h"
#include "app/theme.h"
#include "sheet/topic.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {

/// A button that is as high as its words need in the width that it is given.
class CardButton : public QPushButton
{
public:
    CardButton()
    {
        QSizePolicy policy(QSizePolicy::Preferred, QSizePolicy::Minimum);
        policy.setHeightForWidth(true);
        setSizePolicy(policy);
    }
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override { return layout()->heightForWidth(width); }
    QSize sizeHint() const override { return {usual, heightForWidth(usual)}; }
    QSize minimumSizeHint() const override { return {narrowest, layout()->minimumSize().height()}; }

private:
    static constexpr int usual = 280, narrowest = 190;
};

QPushButton* card(const QString& name, const QString& title, const QString& text)
{
    auto* b = new CardButton;
    b->setObjectName(name);
    b->setAccessibleName(title + u": "_s + text);
    b->setCursor(Qt::PointingHandCursor);
    auto* l = new QVBoxLayout(b);
    l->setContentsMargins(12, 5, 10, 5);
    l->setSpacing(0);
    auto* head = new QLabel(title);
    head->setFont(textFont(10.5, QFont::DemiBold));
    auto* body = new QLabel(text);
    body->setWordWrap(true);
    body->setFont(textFont(9.25));
    body->setStyleSheet(u"color: %1;"_s.arg(theme().muted.name()));
    for (QLabel* x : {head, body}) {
        x->setAttribute(Qt::WA_TransparentForMouseEvents);
        l->addWidget(x);
    }
    l->addStretch(1);
    b->setStyleSheet(u"QPushButton { text-align: left; border-radius: 8px; }"_s);
    return b;
}

/// A card, demo device or recent sheet.
bool isEntry(const QPushButton& b)
{
    const QString name = b.objectName();
    return name == "demo"_L1 || name == "recent"_L1 || name.startsWith("card-"_L1);
}

QLabel* heading(const QString& text, double size, const QColor& c)
{
    auto* l = new QLabel(text);
    l->setFont(textFont(size, QFont::DemiBold));
    l->setStyleSheet(u"color: %1;"_s.arg(c.name()));
    return l;
}

void clear(QLayout* layout)
{
    while (QLayoutItem* i = layout->takeAt(0)) {
        if (i->widget())
            i->widget()->deleteLater();
        if (i->layout())
            clear(i->layout());
        delete i;
    }
}

}  // namespace

OpeningPage::OpeningPage(QWidget* parent) : QWidget(parent)
{
    setObjectName(u"opening"_s);
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 0, 0, 0);
    auto* scroll = new QScrollArea(this);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    outer->addWidget(scroll);
    auto* page = new QWidget;
    page->setObjectName(u"openingContent"_s);
    scroll->setWidget(page);
    auto* row = new QHBoxLayout(page);
    row->setContentsMargins(24, 6, 24, 6);
    row->setSpacing(28);
    auto* left = new QWidget;
    auto* right = new QWidget;
    m_left = new QVBoxLayout(left);
    m_right = new QVBoxLayout(right);
    m_left->setSpacing(4);
    m_right->setSpacing(8);
    left->setMaximumWidth(960);
    right->setMaximumWidth(400);
    row->addStretch(1);
    row->addWidget(left, 26);
    row->addWidget(right, 11);
    row->addStretch(1);
}

void OpeningPage::setEntries(const QList<Entry>& recent, const QList<Entry>& demos,
                             const QList<Entry>& recovered, const QString& sheet)
{
    const Theme& t = theme();
    m_hasSheet = !sheet.isEmpty();
    clear(m_left);
    clear(m_right);
    if (!recovered.isEmpty())
        m_left->addWidget(heading(tr("Unsaved work was found"), 11, t.warning));
    for (const Entry& e : recovered) {
        auto* c = card(u"recover"_s, tr("Take up %1").arg(e.title), e.subtitle);
        connect(c, &QPushButton::clicked, this, [this, e] { Q_EMIT recoverRequested(e.path); });
        m_left->addWidget(c);
        auto* drop = new QPushButton(tr("Discard it"));
        drop->setObjectName(u"discard"_s);
        drop->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
        connect(drop, &QPushButton::clicked, this, [this, e] { Q_EMIT discardRequested(e.path); });
        m_left->addWidget(drop);
    }
    m_left->addWidget(heading(tr("What do you want to know?"), 17, t.ink));
    auto* hint =
        new QLabel(tr("Choose a kind of figure: a sheet with just the lines that it needs opens, "
                      "the missing ones marked."));
    hint->setWordWrap(true);
    hint->setStyleSheet(u"color: %1;"_s.arg(t.muted.name()));
    m_left->addWidget(hint);
    // Side by side, so that all kinds of figures are seen at once.
    auto* cards = new QWidget;
    auto* grid = new QGridLayout(cards);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setSpacing(5);
    int count = 0;
    for (const sheet::Topic& topic : sheet::topics())
        for (const sheet::Card& c : topic.cards) {
            auto* b = card(u"card-"_s + qs(c.key), translated(c.title), translated(c.text));
            connect(b, &QPushButton::clicked, this,
                    [this, key = qs(c.key)] { Q_EMIT cardChosen(key); });
            constexpr int columns = 3;
            grid->addWidget(b, count / columns, count % columns);
            ++count;
        }
    m_left->addWidget(cards);
    if (m_hasSheet) {
        auto* back = new QPushButton(tr("Back to %1").arg(sheet));
        back->setObjectName(u"backToSheet"_s);
        back->setToolTip(tr("The open sheet as it was (Esc)"));
        back->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
        connect(back, &QPushButton::clicked, this, &OpeningPage::backRequested);
        m_left->addWidget(back);
    }
    auto* below = new QHBoxLayout;
    below->setSpacing(8);
    auto* empty = new QPushButton(tr("Empty sheet"));
    empty->setObjectName(u"emptySheet"_s);
    empty->setToolTip(tr("Type every line (Ctrl+K)"));
    connect(empty, &QPushButton::clicked, this, [this] { Q_EMIT cardChosen({}); });
    auto* open = new QPushButton(tr("Open a sheet …"));
    open->setObjectName(u"openSheet"_s);
    connect(open, &QPushButton::clicked, this, &OpeningPage::openRequested);
    for (QPushButton* b : {empty, open}) {
        b->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
        below->addWidget(b);
    }
    below->addStretch(1);
    m_left->addLayout(below);
    m_left->addStretch(1);
    m_search = new QLineEdit;
    m_search->setObjectName(u"search"_s);
    m_search->setPlaceholderText(tr("Search figures and devices"));
    m_search->setAccessibleName(m_search->placeholderText());
    m_search->setClearButtonEnabled(true);
    connect(m_search, &QLineEdit::textChanged, this, &OpeningPage::narrow);
    connect(m_search, &QLineEdit::returnPressed, this, [this] {
        const auto left = matching();
        if (!m_search->text().isEmpty() && left.size() == 1)
            left.front()->click();
    });
    m_right->addWidget(m_search);
    m_right->addWidget(heading(tr("Demo devices: the Petrel drifter"), 11, t.plum));
    for (const Entry& e : demos) {
        auto* c = card(u"demo"_s, e.title, e.subtitle);
        connect(c, &QPushButton::clicked, this, [this, e] { Q_EMIT fileChosen(e.path); });
        m_right->addWidget(c);
    }
    if (!recent.isEmpty())
        m_right->addWidget(heading(tr("Recent sheets"), 11, t.plum));
    for (const Entry& e : recent) {
        auto* b = new QPushButton(e.title);
        b->setObjectName(u"recent"_s);
        b->setToolTip(e.path);
        b->setStyleSheet(u"QPushButton { text-align: left; }"_s);
        connect(b, &QPushButton::clicked, this, [this, e] { Q_EMIT fileChosen(e.path); });
        m_right->addWidget(b);
    }
    m_right->addStretch(1);
}

QList<QPushButton*> OpeningPage::matching() const
{
    const QStringList words = m_search->text().split(u' ', Qt::SkipEmptyParts);
    QList<QPushButton*> list;
    for (QPushButton* b : findChildren<QPushButton*>()) {
        const QString text = b->accessibleName() + u' ' + b->text() + u' ' + b->toolTip();
        if (isEntry(*b) && std::all_of(words.begin(), words.end(), [&](const QString& word) {
                return text.contains(word, Qt::CaseInsensitive);
            }))
            list << b;
    }
    return list;
}

void OpeningPage::narrow()
{
    const auto left = matching();
    for (QPushButton* b : findChildren<QPushButton*>())
        if (isEntry(*b))
            b->setVisible(left.contains(b));
}

void OpeningPage::keyPressEvent(QKeyEvent* e)
{
    if (e->key() == Qt::Key_Escape && m_hasSheet)
        Q_EMIT backRequested();
    else
        QWidget::keyPressEvent(e);
}

}  // namespace yh::app
