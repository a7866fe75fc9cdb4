// Editing in place: the editor over a chip, the compose line and its completions.
#include "app/sheet_view.h"

#include "app/text.h"
#include "app/theme.h"
#include "sheet/schema.h"
#include "sheet/topic.h"

#include <QAbstractItemView>
#include <QCompleter>
#include <QKeyEvent>
#include <QScrollBar>
#include <QStandardItemModel>
#include <QToolTip>
#include <algorithm>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {
constexpr int marginLeft = 34;

}  // namespace

QStringList SheetView::choicesFor(int line, const std::string& field) const
{
    QStringList list;
    const sheet::Line* l = m_state.document.find(line);
    const sheet::Kind* kind = l ? sheet::findKind(l->kind) : nullptr;
    const sheet::Slot* f = kind ? kind->slot(field) : nullptr;
    if (!f)
        return list;
    for (const std::string& c : f->choices)
        list << qs(c);
    if (f->type == sheet::SlotType::reference)
        for (const sheet::Line& o : m_state.document.lines)
            if (o.kind == f->refersTo || std::find(f->alsoRefersTo.begin(), f->alsoRefersTo.end(),
                                                   o.kind) != f->alsoRefersTo.end())
                list << qs(o.name());
    if (f->type == sheet::SlotType::place)
        for (const sheet::Line& o : m_state.document.lines)
            if (sheet::isShape(o.kind)) {
                list << qs(o.name());
                if (o.has("copies"))
                    list << qs(o.name() + " odd") << qs(o.name() + " even");
                if (o.kind == "rectangle")
                    for (const char* side : {".top", ".bottom", ".left", ".right"})
                        list << qs(o.name() + side);
                else if (o.kind == "disc" || o.kind == "ring" || o.kind == "ellipse")
                    list << qs(o.name() + ".outer");
                list << u"outer of "_s + qs(o.name());
            }
    if (l->kind == "material" && field == "material")
        for (const std::string& name : sheet::materialNames())
            list << qs(name);
    if (f->type == sheet::SlotType::quantity && l->kind != "parameter")
        for (const sheet::Line* o : m_state.document.ofKind("parameter"))
            list << qs(o->name());
    return list;
}

void SheetView::startEditor(const QRect& at, const QString& text, const QStringList& completions)
{
    m_model->clear();
    for (const QString& c : completions)
        m_model->appendRow(new QStandardItem(c));
    const int width =
        std::max({at.width() + 30, 150, QFontMetrics(numberFont()).horizontalAdvance(text) + 40});
    const int x = std::max(4, std::min(at.x() - 4, viewport()->width() - width - 6));
    m_editor->setGeometry(x, at.y() - 1, std::min(width, viewport()->width() - x - 6),
                          std::max(at.height() + 2, 24));
    m_editor->setText(text);
    m_editor->selectAll();
    m_editor->show();
    m_editor->raise();
    m_editor->setFocus();
}

void SheetView::edit(int line, const std::string& field)
{
    const QRect at = pieceRect(line, field);
    const sheet::Line* l = m_state.document.find(line);
    if (at.isNull() || !l)
        return;
    select(line);
    const sheet::Kind* kind = sheet::findKind(l->kind);
    const sheet::Slot* f = kind ? kind->slot(field) : nullptr;
    m_composing = false;
    m_editLine = line;
    m_editField = field;
    const std::string text = l->has(field) ? l->get(field) : f ? f->fallback : std::string();
    startEditor(at, qs(text), choicesFor(line, field));
    m_editor->setPlaceholderText(f ? qs(f->help) : QString());
    if (isChoice())
        showAllChoices();
    else if (text.empty() && m_model->rowCount() > 0)
        updateCompletions();
}

bool SheetView::isChoice() const
{
    const sheet::Line* l = m_composing ? nullptr : m_state.document.find(m_editLine);
    const sheet::Kind* kind = l ? sheet::findKind(l->kind) : nullptr;
    const sheet::Slot* f = kind ? kind->slot(m_editField) : nullptr;
    return f && f->type == sheet::SlotType::choice;
}

void SheetView::showAllChoices()
{
    m_completer->setCompletionPrefix({});
    QRect r = m_editor->rect();
    r.setWidth(std::max(r.width(), 260));
    m_completer->complete(r);
}

std::optional<QString> SheetView::chosen(const QString& typed) const
{
    const QStringList all = choicesFor(m_editLine, m_editField);
    if (all.contains(typed) || typed.isEmpty())
        return typed;
    for (const bool fromStart : {true, false}) {
        QStringList fitting;
        for (const QString& c : all)
            if (fromStart ? c.startsWith(typed, Qt::CaseInsensitive)
                          : c.contains(typed, Qt::CaseInsensitive))
                fitting << c;
        if (fitting.size() == 1)
            return fitting.front();
    }
    return std::nullopt;
}

void SheetView::refuse(const QString& why)
{
    QToolTip::showText(m_editor->mapToGlobal(QPoint(0, m_editor->height())), why, m_editor);
    m_editor->setToolTip(why);
}

void SheetView::openCompose(const std::string& section, const QString& text)
{
    QRect at;
    for (const Item& i : m_items)
        if (i.kind == Item::Kind::heading &&
            (i.section == section || (section.empty() && i.section == "ask")))
            at = i.rect;
    for (const Row& r : m_rows)
        if (const sheet::Line* l = m_state.document.find(r.line);
            l && sheet::findKind(l->kind) && sheet::findKind(l->kind)->section == section)
            at = QRect(marginLeft, r.rect.bottom() - 22, 100, 24).translated(0, 22);
    if (!section.empty() && at.bottom() - verticalScrollBar()->value() > viewport()->height() - 60)
        verticalScrollBar()->setValue(at.bottom() - viewport()->height() / 2);
    m_composing = true;
    m_composeSection = section;
    QRect box(12,
              std::clamp(at.y() - verticalScrollBar()->value() + 2, 4, viewport()->height() - 34),
              viewport()->width() - 24, 28);
    const QString begun = text.isEmpty() ? m_draft : text;
    m_draft.clear();
    startEditor(box, begun, {});
    m_editor->setGeometry(box);
    m_editor->deselect();
    m_editor->setCursorPosition(int(begun.size()));
    QString example;
    for (const sheet::Kind& k : sheet::kinds())
        if (k.section == section && example.isEmpty() && k.key != "space")
            example = qs(k.example);
    m_editor->setPlaceholderText(
        example.isEmpty() ? tr("gap = 120 um, electrode 1 V on core, capacitance A to B …")
                          : example);
    updateCompletions();
}

void SheetView::offerLines()
{
    m_model->clear();
    const QString typed = m_editor->text();
    for (const sheet::Completion& c : sheet::completions(typed.toStdString(), m_state.document)) {
        const std::string key = c.text;
        // Under a section's + only that section's lines are offered until something is typed.
        if (typed.isEmpty() && !m_composeSection.empty()) {
            bool mine = false;
            for (const sheet::Kind& k : sheet::kinds())
                mine =
                    mine || (k.section == m_composeSection && (k.example == key || k.words == key));
            if (!mine)
                continue;
        }
        auto* item = new QStandardItem(qs(c.text));
        item->setToolTip(qs(c.help));
        m_model->appendRow(item);
    }
    if (typed.isEmpty() && !m_composeSection.empty()) {
        m_model->clear();
        for (const sheet::Kind& k : sheet::kinds())
            if (k.section == m_composeSection && k.key != "space") {
                auto* item = new QStandardItem(qs(k.example));
                item->setToolTip(qs(k.help));
                m_model->appendRow(item);
            }
    }
}

void SheetView::updateCompletions()
{
    if (m_composing)
        offerLines();
    m_completer->setCompletionPrefix(m_editor->text());
    if (m_completer->completionCount() > 0 && m_editor->hasFocus() &&
        !(m_completer->completionCount() == 1 &&
          m_completer->currentCompletion() == m_editor->text())) {
        QRect r = m_editor->rect();
        r.setWidth(std::max(r.width(), 260));
        m_completer->complete(r);
    } else {
        m_completer->popup()->hide();
    }
}

void SheetView::commitEditor(int step)
{
    QString text = m_editor->text().trimmed();
    if (m_composing) {
        const std::string section = m_composeSection;
        if (text.isEmpty()) {
            closeEditor();
            return;
        }
        // The text stays for mending when it is not understood.
        const sheet::Composed c = sheet::compose(text.toStdString(), m_state.document);
        if (!c.ok && !(section == "aim")) {
            refuse(qs(c.fault));
            return;
        }
        closeEditor();
        Q_EMIT composed(qs(section), text);
        return;
    }
    if (isChoice()) {
        const auto choice = chosen(text);
        if (!choice) {
            refuse(tr("one of: %1").arg(choicesFor(m_editLine, m_editField).join(u", "_s)));
            return;
        }
        text = *choice;
    }
    const int line = m_editLine;
    const std::string field = m_editField;
    const auto order = editable();
    closeEditor();
    Q_EMIT fieldEdited(line, qs(field), text);
    if (step == 0)
        return;
    const auto at = std::find(order.begin(), order.end(), std::pair(line, field));
    if (at == order.end())
        return;
    const auto to = (at - order.begin()) + step;
    if (to >= 0 && to < std::ptrdiff_t(order.size()))
        edit(order[size_t(to)].first, order[size_t(to)].second);
}

void SheetView::leaveEditor()
{
    const QString text = m_editor->text().trimmed();
    if (m_composing) {
        // What is not a line yet waits for the next time.
        if (!text.isEmpty() && sheet::compose(text.toStdString(), m_state.document).ok)
            commitEditor(0);
        else
            m_draft = text;
    } else if (!isChoice() || chosen(text)) {
        commitEditor(0);
    }
    closeEditor();
}

void SheetView::closeEditor()
{
    if (!m_editor->isVisible() || m_closing)
        return;
    m_closing = true;
    m_completer->popup()->hide();
    m_editor->hide();
    m_editor->setToolTip({});
    m_composing = false;
    setFocus();
    m_closing = false;
}

bool SheetView::eventFilter(QObject* object, QEvent* e)
{
    if (e->type() == QEvent::KeyPress && (object == m_editor || object == m_completer->popup())) {
        const auto* key = static_cast<QKeyEvent*>(e);
        QAbstractItemView* popup = m_completer->popup();
        if (key->key() == Qt::Key_Escape) {
            if (popup->isVisible())
                popup->hide();
            else
                closeEditor();
            return true;
        }
        if (key->key() == Qt::Key_Tab || key->key() == Qt::Key_Backtab) {
            // Tab completes while there is something to complete, else goes on to the next chip.
            if (popup->isVisible() && key->key() == Qt::Key_Tab) {
                const QModelIndex i = popup->currentIndex().isValid()
                                          ? popup->currentIndex()
                                          : m_completer->completionModel()->index(0, 0);
                m_editor->setText(i.data().toString());
                popup->hide();
                if (m_composing)
                    updateCompletions();
                return true;
            }
            if (!m_composing)
                commitEditor(key->key() == Qt::Key_Tab ? 1 : -1);
            return true;
        }
        if (key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter) {
            if (popup->isVisible() && popup->currentIndex().isValid()) {
                m_editor->setText(popup->currentIndex().data().toString());
                popup->hide();
                if (m_composing)
                    return true;
            }
            popup->hide();
            commitEditor(0);
            return true;
        }
    }
    if (object == m_editor && e->type() == QEvent::FocusOut && !m_closing &&
        m_editor->isVisible()) {
        const auto reason = static_cast<QFocusEvent*>(e)->reason();
        if (reason == Qt::MouseFocusReason || reason == Qt::OtherFocusReason) {
            leaveEditor();
        }
    }
    return QAbstractScrollArea::eventFilter(object, e);
}

std::vector<std::pair<int, std::string>> SheetView::editable() const
{
    std::vector<std::pair<int, std::string>> list;
    for (const Item& i : m_items)
        if (i.kind == Item::Kind::piece && i.line >= 0 && !i.field.empty() &&
            (list.empty() || list.back() != std::pair(i.line, i.field)))
            list.emplace_back(i.line, i.field);
    return list;
}

}  // namespace yh::app
