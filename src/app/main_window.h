// The window: sheet, scene with drawer, findings; opening page before a sheet is open.
#pragma once

#include "app/help_dialog.h"
#include "app/pin_trail.h"
#include "app/results.h"
#include "app/scene_canvas.h"
#include "app/session.h"
#include "app/sheet_view.h"
#include "app/solid_canvas.h"
#include "app/solver_client.h"

#include <QElapsedTimer>
#include <QMainWindow>
#include <QTimer>
#include <functional>

class QLabel;
class QProgressBar;
class QPushButton;
class QSplitter;
class QStackedWidget;
class QToolButton;

namespace yh::app {

class Drawer;
class FindingsView;
class OpeningPage;
class ScenePanel;

class MainWindow : public QMainWindow
{
    Q_OBJECT
public:
    explicit MainWindow(QWidget* parent = nullptr);
    ~MainWindow() override;

    void openFile(const QString& path);
    void newSheet(const QString& card);
    void solve();
    void cancelSolve();
    [[nodiscard]] bool isSolving() const { return m_solver->isBusy(); }
    [[nodiscard]] Session* session() const { return m_session; }
    [[nodiscard]] SheetView* sheetView() const { return m_sheet; }
    [[nodiscard]] Drawer* drawer() const { return m_drawer; }
    [[nodiscard]] ScenePanel* scenePanel() const { return m_scene; }
    [[nodiscard]] const Results& results() const { return m_results; }
    [[nodiscard]] SolverClient* solver() const { return m_solver; }
    [[nodiscard]] const base::Faults& faults() const { return m_faults; }
    void showOpeningPage();
    void setDark(bool dark);
    static QString demoFolder();

Q_SIGNALS:
    void shapeShown();
    void solveEnded(bool good);

protected:
    void closeEvent(QCloseEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

private:
    /// Title, progress and what goes on.
    void buildStatus(QWidget* header);
    /// Undo, redo and solve.
    void buildButtons(QWidget* header);
    void buildHeader();
    void buildColumns();
    void connectSolver();
    void connectSheet();
    void connectScene();
    void connectFindings();
    void connectOpening();
    void buildActions();
    void onReplaced();
    void onChanged();
    void refreshSheet();
    /// Where the lines with names act: electrodes, ports, coils.
    [[nodiscard]] std::vector<NamedPlace> namedPlaces() const;
    void requestShape();
    void onShapeEvent(const QJsonObject& event);
    void onSolveEvent(const QJsonObject& event);
    void loadResults(bool fromDisk);
    void showResults();
    void showStatus();
    void highlight(int line, const std::string& field);
    void updateHandles();
    void dragHandle(int line, QPointF centre, double halfWidth, double halfHeight);
    void addDrawn(Tool tool, const QVector<QPointF>& points, const QVector<int>& arcs);
    /// Menu for a face of a solid: what it, or its region, can be.
    void offerSide(int side, int solid, QPoint global);
    void offerBox(const std::set<int>& sides, const std::set<int>& solids, QPoint global);
    void addProfile(const std::array<double, 3>& from, const std::array<double, 3>& to);
    /// Adds a reading to the table of pins; returns what is written beside the pin.
    QString keepReading(const QString& text, const std::array<double, 3>& at);
    /// Marks where the figure of a line is, and says so.
    void showPlace(int line);
    void forgetPins();
    /// Pins tell what the field that came is at their places.
    void readPinsAnew();
    /// Lines that still lack a place.
    void offerLines(QMenu* menu, const QString& rule, bool edge);
    /// Adds a line at a place and begins to edit what it still lacks.
    void addAt(const std::string& kind, std::map<std::string, std::string> values,
               const std::string& editField, const std::string& name);
    void offerPlace(const QString& rule, bool edge, int line, QPoint global);
    void composeLine(const QString& section, const QString& text);
    void editField(int line, const QString& field, const QString& text);
    void chooseUnit(int line, const QPoint& at);
    void showMaterials();
    void importShape(const QString& file);
    int exportCourse(const QString& file);
    struct Export
    {
        QString text, what, filter, suffix, source;
    };
    /// What there is to be written of this sheet and its result.
    [[nodiscard]] std::vector<Export> exportsNow() const;
    /// Asks where to.
    void ask(const Export& e);
    void exportTo(const QString& file, const Export& e);
    /// @param then  what goes on once it is saved
    void save(bool as, const std::function<void()>& then = {});
    /// Goes on with `then` once changes of the sheet are saved or given up.
    void settle(const std::function<void()>& then);
    void showSheet();
    void openDialog();
    void replaceBy(const QString& path);
    void say(const QString& text, bool bad = false);
    void rebuildMenu();
    /// Tells of the chosen line.
    void help();
    [[nodiscard]] bool isStale() const;
    [[nodiscard]] QString lensOfMode(int mode) const;
    void showModePictures();

    Session* m_session;
    SolverClient *m_shapeClient, *m_solver;
    QStackedWidget* m_stack;
    OpeningPage* m_opening;
    SheetView* m_sheet;
    ScenePanel* m_scene;
    Drawer* m_drawer;
    FindingsView* m_findings;
    QSplitter *m_columns, *m_middle;
    QLabel *m_title, *m_status;
    QProgressBar* m_progress;
    QPushButton *m_undo, *m_redo, *m_solve;
    QToolButton* m_menu;
    HelpDialog* m_help = nullptr;
    QTimer m_shapeTimer;
    QElapsedTimer m_clock;
    int m_shapeRequest = -1, m_solveRequest = -1;
    QString m_solveFolder;  ///< where the answer goes that is awaited
    base::Faults m_faults;
    Results m_results;
    sheet::Document m_solved;
    QJsonObject m_places;
    std::vector<SceneCanvas::Pin> m_pins;
    std::vector<SolidCanvas::Pin> m_solidPins;
    PinTrail m_trail;
    bool m_dark = false, m_closing = false;
    sheet::Document m_solving;
};

}  // namespace yh::app
