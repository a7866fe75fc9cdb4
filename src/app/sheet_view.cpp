#include "app/sheet_view.h"

#include "app/text.h"
#include "app/theme.h"
#include "sheet/schema.h"

#include <QAbstractItemView>
#include <QCompleter>
#include <QContextMenuEvent>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>
#include <QStandardItemModel>
#include <QToolTip>
#include <algorithm>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {
constexpr int sheetLeft = 34, marginRight = 12, markCentre = 20;

bool boxed(sheet::Piece::Kind k)
{
    return k == sheet::Piece::Kind::chip || k == sheet::Piece::Kind::pill;
}
/** Where a text is broken that has to fit, -1 where it cannot be. */
qsizetype breakOf(const QString& rest, const QFontMetrics& fm, int room)
{
    qsizetype cut = -1;
    for (qsizetype space = rest.indexOf(u' '); space >= 0; space = rest.indexOf(u' ', space + 1)) {
        if (fm.horizontalAdvance(rest.left(space)) > room)
            break;
        cut = space;
    }
    return cut;
}

}  // namespace

SheetView::SheetView(QWidget* parent) : QAbstractScrollArea(parent)
{
    setObjectName(u"sheet"_s);
    setAccessibleName(tr("Sheet"));
    setFocusPolicy(Qt::StrongFocus);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    viewport()->setMouseTracking(true);
    m_model = new QStandardItemModel(this);
    m_editor = new QLineEdit(viewport());
    m_editor->setObjectName(u"sheetEditor"_s);
    m_editor->setAccessibleName(tr("Value"));
    m_editor->setFont(numberFont());
    m_editor->hide();
    m_editor->installEventFilter(this);
    m_completer = new QCompleter(m_model, this);
    m_completer->setCaseSensitivity(Qt::CaseInsensitive);
    m_completer->setCompletionMode(QCompleter::PopupCompletion);
    m_completer->setMaxVisibleItems(12);
    m_completer->setFilterMode(Qt::MatchContains);
    m_completer->setWidget(m_editor);
    m_completer->popup()->setObjectName(u"completions"_s);
    m_completer->popup()->installEventFilter(this);
    connect(m_completer, qOverload<const QString&>(&QCompleter::activated), this,
            [this](const QString& text) {
                m_editor->setText(text);
                m_editor->setFocus();
                if (isChoice())
                    commitEditor(0);
            });
    connect(m_editor, &QLineEdit::textEdited, this, &SheetView::updateCompletions);
}

void SheetView::foldAll()
{
    m_unfolded.clear();
}

void SheetView::setState(SheetState state)
{
    m_state = std::move(state);
    layoutItems();
    viewport()->update();
}

void SheetView::select(int line)
{
    if (line == m_selected)
        return;
    m_selected = line;
    viewport()->update();
    Q_EMIT lineSelected(line);
}

QString SheetView::faultOf(int line, const std::string& field) const
{
    for (const base::Fault& f : m_state.faults)
        if (f.place.line == line && (field.empty() || f.place.field == field))
            return qs(f.text);
    return {};
}

void SheetView::place(Item item, int& x, int& y, int indent, int height)
{
    const bool label = item.kind == Item::Kind::value && !item.text.startsWith(u"→"_s);
    const bool mono = (item.kind == Item::Kind::value && !label) ||
                      (item.kind == Item::Kind::piece && item.piece == sheet::Piece::Kind::chip);
    const bool strong = item.kind == Item::Kind::piece && item.piece == sheet::Piece::Kind::name;
    const QFont font = label  ? textFont(8.75)
                       : mono ? numberFont()
                              : textFont(9.75, strong ? QFont::DemiBold : QFont::Normal);
    const int pad = boxed(item.piece) && item.kind == Item::Kind::piece ? 6 : 0;
    const QFontMetrics fm(font);
    const int right = viewport()->width() - marginRight;
    // A long word text is broken where it must be.
    QString rest = item.text;
    while (true) {
        const int width = fm.horizontalAdvance(rest) + 2 * pad;
        if (x + width <= right || (x == indent && pad > 0)) {
            Item part = item;
            part.text = pad > 0 && x + width > right
                            ? fm.elidedText(rest, Qt::ElideRight, right - x - 2 * pad)
                            : rest;
            part.rect = QRect(x, y, std::min(width, right - x), height);
            m_items.push_back(std::move(part));
            x += width + 5;
            return;
        }
        const qsizetype cut = pad == 0 ? breakOf(rest, fm, right - x) : -1;
        if (cut > 0) {
            Item part = item;
            part.text = rest.left(cut);
            part.rect = QRect(x, y, fm.horizontalAdvance(part.text), height);
            m_items.push_back(std::move(part));
            rest = rest.mid(cut + 1);
        } else if (x == indent) {
            Item part = item;
            part.text = fm.elidedText(rest, Qt::ElideRight, right - x);
            part.rect = QRect(x, y, right - x, height);
            m_items.push_back(std::move(part));
            x = right;
            return;
        }
        x = indent;
        y += height;
    }
}

void SheetView::layoutLine(const sheet::Line& line, int& y)
{
    const sheet::Kind* kind = sheet::findKind(line.kind);
    const int height = QFontMetrics(textFont()).height() + 7;
    const int top = y;
    int x = sheetLeft;
    y += 2;
    QString lineFault;
    for (const base::Fault& f : m_state.faults)
        if (f.place.line == line.id && lineFault.isEmpty())
            lineFault = qs(f.text);
    Item mark;
    mark.kind = Item::Kind::mark;
    mark.line = line.id;
    mark.rect = QRect(markCentre - 6, y + height / 2 - 6, 12, 12);
    mark.tip = lineFault.isEmpty() ? (m_state.changedSinceSolve.count(line.id)
                                          ? tr("complete; not solved since it changed")
                                          : tr("complete"))
                                   : lineFault;
    if (line.kind != "aim")
        m_items.push_back(mark);
    for (const sheet::Piece& p : sheet::sentence(line)) {
        Item item;
        item.line = line.id;
        item.field = p.field;
        item.piece = p.kind;
        item.text = qs(p.text);
        if (line.kind == "aim")
            item.piece = p.kind == sheet::Piece::Kind::missing ? p.kind : sheet::Piece::Kind::word;
        if (const sheet::Slot* f = kind ? kind->slot(p.field) : nullptr) {
            item.tip = qs(f->help);
            if (const QString fault = faultOf(line.id, p.field); !fault.isEmpty())
                item.tip = fault;
        }
        if (p.kind == sheet::Piece::Kind::missing)
            item.text = line.kind == "aim" ? item.text : u"‹"_s + item.text + u"›"_s;
        place(item, x, y, sheetLeft, height);
        const auto value = m_state.evaluated.find({line.id, p.field});
        auto bare = [](QString text) { return text.remove(u' ').remove(QChar(0x00A0)); };
        if (value != m_state.evaluated.end() && !p.field.empty() &&
            bare(qs(value->second)) != bare(qs(p.text))) {
            Item v;
            v.kind = Item::Kind::value;
            v.line = line.id;
            v.text = (u"→ "_s + qs(value->second));
            v.text.replace(u' ', QChar(0x00A0));
            place(v, x, y, sheetLeft, height);
        }
    }
    // What is missing or wrong, in words, where it is not already said by a ‹missing› piece.
    for (const base::Fault& f : m_state.faults) {
        if (f.place.line != line.id || (f.number == 2002 && line.kind != "mirror plane"))
            continue;
        Item hint;
        hint.kind = Item::Kind::hint;
        hint.line = line.id;
        hint.field = f.place.field;
        hint.text = qs(f.text);
        hint.tip = f.incomplete ? QString() : tr("wrong");
        place(hint, x, y, sheetLeft, height);
    }
    y += height;
    if (m_unfolded.count(line.id) && kind) {
        for (const sheet::Slot& f : kind->entries) {
            int fx = sheetLeft + 16;
            Item label;
            label.line = line.id;
            label.text = qs(f.help.empty() ? f.key : f.help) + u":"_s;
            label.kind = Item::Kind::value;
            place(label, fx, y, sheetLeft + 16, height);
            Item chip;
            chip.line = line.id;
            chip.field = f.key;
            chip.piece = sheet::Piece::Kind::chip;
            chip.text = line.has(f.key)      ? qs(line.get(f.key))
                        : f.fallback.empty() ? tr("not set")
                                             : qs(f.fallback);
            place(chip, fx, y, sheetLeft + 16, height);
            y += height;
        }
    }
    y += 2;
    m_rows.push_back({line.id, QRect(0, top, viewport()->width(), y - top)});
}

void SheetView::layoutHeading(const sheet::Section& s, int y)
{
    const int height = QFontMetrics(textFont()).height() + 5;
    Item heading;
    heading.kind = Item::Kind::heading;
    heading.section = s.key;
    heading.text = qs(s.title).toUpper();
    heading.rect = QRect(sheetLeft, y + 5, viewport()->width() - sheetLeft - marginRight, height);
    m_items.push_back(heading);
    Item add;
    add.kind = Item::Kind::add;
    add.section = s.key;
    add.text = u"+ "_s + qs(s.add);
    const int width = QFontMetrics(textFont(8.75)).horizontalAdvance(add.text) + 8;
    add.rect = QRect(viewport()->width() - marginRight - width, y + 5, width, height);
    add.tip = tr("Add a line here (Ctrl+K)");
    m_items.push_back(add);
}

void SheetView::layoutHint(const base::Fault& f, const std::string& section,
                           const sheet::Kind* missing, int& y)
{
    const int height = QFontMetrics(textFont()).height() + 5;
    int x = sheetLeft;
    Item mark;
    mark.kind = Item::Kind::mark;
    mark.section = section;
    mark.rect = QRect(markCentre - 6, y + height / 2 - 6, 12, 12);
    m_items.push_back(mark);
    Item hint;
    hint.kind = Item::Kind::hint;
    hint.section = section;
    hint.text = qs(f.text);
    // A click begins the line that is missing.
    if (missing)
        hint.field = missing->words + ' ';
    place(hint, x, y, sheetLeft, height);
    y += height + 2;
}

void SheetView::layoutUnknown(int& y)
{
    bool isFirst = true;
    for (const sheet::Line& l : m_state.document.lines) {
        if (sheet::findKind(l.kind))
            continue;
        if (isFirst) {
            const int height = QFontMetrics(textFont()).height() + 5;
            Item heading;
            heading.kind = Item::Kind::heading;
            heading.text = tr("Not known").toUpper();
            heading.rect =
                QRect(sheetLeft, y + 5, viewport()->width() - sheetLeft - marginRight, height);
            m_items.push_back(heading);
            y += height + 8;
        }
        isFirst = false;
        layoutLine(l, y);
    }
}

void SheetView::layoutItems()
{
    m_items.clear();
    m_rows.clear();
    int y = 6;
    const int height = QFontMetrics(textFont()).height() + 5;
    for (const sheet::Section& s : sheet::sections()) {
        if (!sheet::isOffered(s.key, m_state.document))
            continue;
        layoutHeading(s, y);
        y += height + 8;
        for (const sheet::Line& l : m_state.document.lines)
            if (sheet::findKind(l.kind) && sheet::findKind(l.kind)->section == s.key)
                layoutLine(l, y);
        for (const base::Fault& f : m_state.faults)
            if (const sheet::Kind* missing = sheet::findKind(f.place.field);
                f.place.line < 0 &&
                (missing ? missing->section == s.key : f.place.field == s.key)) {
                layoutHint(f, s.key, missing, y);
            }
        y += 2;
    }
    layoutUnknown(y);
    verticalScrollBar()->setPageStep(viewport()->height());
    verticalScrollBar()->setRange(0, std::max(0, y + 30 - viewport()->height()));
    verticalScrollBar()->setSingleStep(height);
}

void SheetView::paintMark(QPainter& p, const Item& item) const
{
    const Theme& t = theme();
    const QRectF r = QRectF(item.rect).adjusted(2.5, 2.5, -2.5, -2.5);
    bool half = item.line < 0, wrong = false;
    for (const base::Fault& f : m_state.faults)
        if (f.place.line == item.line && item.line >= 0) {
            half = true;
            wrong = wrong || !f.incomplete;
        }
    const QColor c = wrong ? t.bad : half ? t.warning : t.good;
    p.setPen(QPen(c, 1.5));
    p.setBrush(Qt::NoBrush);
    if (half) {
        p.drawEllipse(r);
        p.setBrush(c);
        p.setPen(Qt::NoPen);
        p.drawChord(r, 180 * 16, 180 * 16);
    } else if (m_state.changedSinceSolve.count(item.line)) {
        p.drawEllipse(r);
    } else {
        p.setBrush(c);
        p.drawEllipse(r);
    }
}

void SheetView::paintEvent(QPaintEvent*)
{
    const Theme& t = theme();
    QPainter p(viewport());
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(viewport()->rect(), t.sheet);
    p.translate(0, -verticalScrollBar()->value());
    for (const Row& r : m_rows)
        if (r.line == m_selected) {
            p.fillRect(r.rect, t.selection);
            p.fillRect(QRect(0, r.rect.top(), 3, r.rect.height()), t.yellow);
        } else if (r.line == m_hovered) {
            QColor c = t.selection;
            c.setAlphaF(0.45f);
            p.fillRect(r.rect, c);
        }
    for (const Item& i : m_items) {
        switch (i.kind) {
            case Item::Kind::heading: {
                QFont f = textFont(8.25, QFont::DemiBold);
                f.setLetterSpacing(QFont::AbsoluteSpacing, 0.9);
                p.setFont(f);
                p.setPen(t.plum);
                p.drawText(i.rect, Qt::AlignVCenter | Qt::AlignLeft, i.text);
                break;
            }
            case Item::Kind::add:
                p.setFont(textFont(8.75));
                p.setPen(t.muted);
                p.drawText(i.rect, Qt::AlignVCenter | Qt::AlignRight, i.text);
                break;
            case Item::Kind::mark:
                paintMark(p, i);
                break;
            case Item::Kind::value:
                p.setFont(i.text.startsWith(u"→"_s) ? numberFont(8.6) : textFont(8.75));
                p.setPen(t.muted);
                p.drawText(i.rect, Qt::AlignVCenter | Qt::AlignLeft, i.text);
                break;
            case Item::Kind::hint:
                p.setFont(textFont(9));
                p.setPen(i.tip.isEmpty() ? t.warning : t.bad);
                p.drawText(i.rect, Qt::AlignVCenter | Qt::AlignLeft, i.text);
                break;
            case Item::Kind::piece: {
                const bool wrong = i.line >= 0 && !i.field.empty() &&
                                   !faultOf(i.line, i.field).isEmpty() &&
                                   i.piece != sheet::Piece::Kind::missing;
                if (i.piece == sheet::Piece::Kind::chip || i.piece == sheet::Piece::Kind::pill) {
                    const bool chip = i.piece == sheet::Piece::Kind::chip;
                    const QRectF box = QRectF(i.rect).adjusted(0, 3, 0, -2);
                    p.setPen(wrong ? QPen(t.bad, 1) : QPen(Qt::NoPen));
                    p.setBrush(chip ? t.chip : t.pill);
                    p.drawRoundedRect(box, chip ? 4 : box.height() / 2,
                                      chip ? 4 : box.height() / 2);
                    p.setFont(chip ? numberFont() : textFont(9));
                    p.setPen(chip ? t.ink : t.plum);
                    p.drawText(box, Qt::AlignCenter, i.text);
                } else {
                    const bool missing = i.piece == sheet::Piece::Kind::missing;
                    p.setFont(textFont(9.75, i.piece == sheet::Piece::Kind::name ? QFont::DemiBold
                                                                                 : QFont::Normal));
                    p.setPen(missing ? t.warning : t.ink);
                    p.drawText(i.rect, Qt::AlignVCenter | Qt::AlignLeft, i.text);
                }
                break;
            }
        }
    }
}

void SheetView::resizeEvent(QResizeEvent*)
{
    layoutItems();
}

void SheetView::scrollContentsBy(int dx, int dy)
{
    QAbstractScrollArea::scrollContentsBy(dx, dy);
    if (m_editor->isVisible())
        m_editor->move(m_editor->x(), m_editor->y() + dy);
    viewport()->update();
}

const SheetView::Item* SheetView::itemAt(QPoint p) const
{
    p.ry() += verticalScrollBar()->value();
    for (const Item& i : m_items)
        if (i.kind != Item::Kind::heading && i.rect.contains(p))
            return &i;
    return nullptr;
}

QRect SheetView::pieceRect(int line, const std::string& field) const
{
    for (const Item& i : m_items)
        if ((i.kind == Item::Kind::piece || i.kind == Item::Kind::hint) && i.line == line &&
            i.field == field)
            return i.rect.translated(0, -verticalScrollBar()->value());
    return {};
}

QRect SheetView::addRect(const std::string& section) const
{
    for (const Item& i : m_items)
        if (i.kind == Item::Kind::add && i.section == section)
            return i.rect.translated(0, -verticalScrollBar()->value());
    return {};
}

void SheetView::mousePressEvent(QMouseEvent* e)
{
    // What was typed is taken before anything is looked for: lines may move by it.
    if (m_editor->isVisible())
        leaveEditor();
    setFocus();
    const QPoint at = e->position().toPoint();
    const Item* hit = itemAt(at);
    if (e->button() != Qt::LeftButton)
        return;
    const Item item = hit ? *hit : Item{};
    int line = -1;
    for (const Row& r : m_rows)
        if (r.rect.contains(at + QPoint(0, verticalScrollBar()->value())))
            line = r.line;
    select(line);
    if (!hit)
        return;
    if (item.kind == Item::Kind::add)
        openCompose(item.section);
    else if (item.kind == Item::Kind::hint && item.line < 0)
        openCompose(item.section, qs(item.field));
    else if (item.kind == Item::Kind::mark && item.line >= 0) {
        if (!m_unfolded.insert(item.line).second)
            m_unfolded.erase(item.line);
        layoutItems();
        viewport()->update();
    } else if (item.kind != Item::Kind::hint && !item.field.empty() && item.line >= 0) {
        edit(item.line, item.field);
    }
}

void SheetView::mouseMoveEvent(QMouseEvent* e)
{
    const QPoint at = e->position().toPoint();
    int line = -1;
    for (const Row& r : m_rows)
        if (r.rect.contains(at + QPoint(0, verticalScrollBar()->value())))
            line = r.line;
    const Item* i = itemAt(at);
    viewport()->setCursor(
        i && (!i->field.empty() || i->kind == Item::Kind::add || i->kind == Item::Kind::mark)
            ? Qt::PointingHandCursor
            : Qt::ArrowCursor);
    if (line != m_hovered) {
        m_hovered = line;
        viewport()->update();
    }
    Q_EMIT pieceHovered(line, i ? qs(i->field) : QString());
}

void SheetView::leaveEvent(QEvent*)
{
    m_hovered = -1;
    viewport()->update();
    Q_EMIT pieceHovered(-1, {});
}

bool SheetView::viewportEvent(QEvent* e)
{
    if (e->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(e);
        const Item* i = itemAt(help->pos());
        if (i && !i->tip.isEmpty())
            QToolTip::showText(help->globalPos(), i->tip, viewport());
        else
            QToolTip::hideText();
        return true;
    }
    return QAbstractScrollArea::viewportEvent(e);
}

void SheetView::contextMenuEvent(QContextMenuEvent* e)
{
    int line = -1;
    for (const Row& r : m_rows)
        if (r.rect.contains(e->pos() + QPoint(0, verticalScrollBar()->value())))
            line = r.line;
    if (line < 0)
        return;
    select(line);
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const bool open = m_unfolded.count(line) != 0;
    menu->addAction(open ? tr("Fold finer settings") : tr("Unfold finer settings"), this,
                    [this, line] {
                        if (!m_unfolded.insert(line).second)
                            m_unfolded.erase(line);
                        layoutItems();
                        viewport()->update();
                    });
    menu->addAction(tr("Move up"), QKeySequence(Qt::ALT | Qt::Key_Up), this,
                    [this, line] { Q_EMIT moveRequested(line, -1); });
    menu->addAction(tr("Move down"), QKeySequence(Qt::ALT | Qt::Key_Down), this,
                    [this, line] { Q_EMIT moveRequested(line, 1); });
    menu->addSeparator();
    if (const sheet::Line* l = m_state.document.find(line); l && l->kind == "material")
        menu->addAction(tr("Keep among my materials"), this,
                        [this, line] { Q_EMIT keepRequested(line); });
    menu->addAction(tr("Remove line"), QKeySequence(Qt::Key_Delete), this,
                    [this, line] { Q_EMIT removeRequested(line); });
    menu->popup(e->globalPos());
}

void SheetView::keyPressEvent(QKeyEvent* e)
{
    const auto next = [&](int step) {
        int at = -1;
        for (size_t i = 0; i < m_rows.size(); ++i)
            if (m_rows[i].line == m_selected)
                at = int(i);
        at = std::clamp(at + step, 0, int(m_rows.size()) - 1);
        if (!m_rows.empty()) {
            select(m_rows[size_t(at)].line);
            const QRect r = m_rows[size_t(at)].rect;
            if (r.top() < verticalScrollBar()->value())
                verticalScrollBar()->setValue(r.top());
            if (r.bottom() > verticalScrollBar()->value() + viewport()->height())
                verticalScrollBar()->setValue(r.bottom() - viewport()->height());
        }
    };
    if (e->modifiers() & Qt::AltModifier && (e->key() == Qt::Key_Up || e->key() == Qt::Key_Down)) {
        if (m_selected >= 0)
            Q_EMIT moveRequested(m_selected, e->key() == Qt::Key_Up ? -1 : 1);
    } else if (e->key() == Qt::Key_Up || e->key() == Qt::Key_Down) {
        next(e->key() == Qt::Key_Up ? -1 : 1);
    } else if ((e->key() == Qt::Key_Delete || e->key() == Qt::Key_Backspace) && m_selected >= 0) {
        Q_EMIT removeRequested(m_selected);
    } else if ((e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) && m_selected >= 0) {
        for (const auto& [line, field] : editable())
            if (line == m_selected && field != "name") {
                edit(line, field);
                break;
            }
    } else if (e->key() == Qt::Key_Space && m_selected >= 0) {
        if (!m_unfolded.insert(m_selected).second)
            m_unfolded.erase(m_selected);
        layoutItems();
        viewport()->update();
    } else {
        QAbstractScrollArea::keyPressEvent(e);
    }
}

}  // namespace yh::app
