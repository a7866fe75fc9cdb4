// The sheet as a page: sections of sentences whose chips and pills are edited where they stand.
#pragma once

#include "base/fault.h"
#include "sheet/document.h"
#include "sheet/sentence.h"

#include <QAbstractScrollArea>
#include <QLineEdit>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

class QCompleter;
class QStandardItemModel;

namespace yh::app {

/// What the sheet shows: a plain value.
struct SheetState
{
    sheet::Document document;
    base::Faults faults;
    std::set<int> changedSinceSolve;                               ///< lines marked with a ring
    std::map<std::pair<int, std::string>, std::string> evaluated;  ///< "→ 180 µm" behind a chip
};

class SheetView : public QAbstractScrollArea
{
    Q_OBJECT
public:
    explicit SheetView(QWidget* parent = nullptr);
    void setState(SheetState state);
    [[nodiscard]] int selectedLine() const { return m_selected; }
    void select(int line);
    /// Folds finer settings away; for another document.
    void foldAll();
    /// Opens the compose line under a section ("" or unknown: at the end of the sheet).
    void openCompose(const std::string& section, const QString& text = {});
    /// Starts editing a chip, pill or name.
    void edit(int line, const std::string& field);
    /// Where a field's piece, or else what is said of it, stands in the viewport; for guidance and
    /// tests.
    [[nodiscard]] QRect pieceRect(int line, const std::string& field) const;
    [[nodiscard]] QRect addRect(const std::string& section) const;
    [[nodiscard]] QLineEdit* editor() const { return m_editor; }

Q_SIGNALS:
    void fieldEdited(int line, const QString& field, const QString& text);
    void composed(const QString& section, const QString& text);
    void lineSelected(int line);
    void pieceHovered(int line, const QString& field);
    void removeRequested(int line);
    /// A material line goes to the user's own materials.
    void keepRequested(int line);
    void moveRequested(int line, int steps);

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    bool viewportEvent(QEvent* event) override;
    bool eventFilter(QObject* object, QEvent* event) override;
    void scrollContentsBy(int dx, int dy) override;

private:
    struct Item
    {
        enum class Kind { heading, piece, value, hint, mark, add };
        Kind kind = Kind::piece;
        QRect rect;
        QString text;
        int line = -1;
        std::string field, section;
        sheet::Piece::Kind piece = sheet::Piece::Kind::word;
        QString tip;
    };
    struct Row
    {
        int line = -1;
        QRect rect;
    };
    /// What is missing in a section, as a click begins it.
    void layoutHint(const base::Fault& f, const std::string& section, const sheet::Kind* missing,
                    int& y);
    /// A section's title and the button that adds a line to it.
    void layoutHeading(const sheet::Section& s, int y);
    /// Lines of kinds that only another version knows.
    void layoutUnknown(int& y);
    void layoutItems();
    void layoutLine(const sheet::Line& line, int& y);
    void place(Item item, int& x, int& y, int indent, int height);
    [[nodiscard]] const Item* itemAt(QPoint p) const;
    void startEditor(const QRect& at, const QString& text, const QStringList& completions);
    void commitEditor(int step);
    /// The keyboard goes elsewhere: what was typed is taken, or kept.
    void leaveEditor();
    void closeEditor();
    /// Whether one of a few words is edited.
    [[nodiscard]] bool isChoice() const;
    void showAllChoices();
    /// The choice that was typed, in full or as far as it is the only one.
    [[nodiscard]] std::optional<QString> chosen(const QString& typed) const;
    /// Says below the editor why a text is not taken.
    void refuse(const QString& why);
    /// What completes a line that is being written.
    void offerLines();
    void updateCompletions();
    void paintMark(QPainter& painter, const Item& item) const;
    [[nodiscard]] QStringList choicesFor(int line, const std::string& field) const;
    [[nodiscard]] std::vector<std::pair<int, std::string>> editable() const;
    [[nodiscard]] QString faultOf(int line, const std::string& field) const;

    SheetState m_state;
    std::vector<Item> m_items;
    std::vector<Row> m_rows;
    std::set<int> m_unfolded;
    int m_selected = -1, m_hovered = -1;
    QLineEdit* m_editor = nullptr;
    QCompleter* m_completer = nullptr;
    QStandardItemModel* m_model = nullptr;
    bool m_composing = false, m_closing = false;
    int m_editLine = -1;
    std::string m_editField, m_composeSection;
    QString m_draft;  ///< what was begun in the compose line and left
};

}  // namespace yh::app
