// Asks how a file is to be read: its unit, a layer of a layout, levels of a picture, with a look at
// what comes in and how large it would be.
#pragma once

#include "sheet/document.h"

#include <QDialog>
#include <QJsonObject>

#include <map>
#include <string>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QStackedWidget;

namespace yh::app {

class SceneCanvas;
class SolidCanvas;
class SolverClient;

class ImportDialog : public QDialog
{
    Q_OBJECT
public:
    /// @param space  of the sheet: plane, axisymmetric, solid
    ImportDialog(const QString& file, const std::string& space, QWidget* parent = nullptr);
    /// Adds the line to a sheet.
    void addTo(sheet::Document& document) const;
    /// A file that can be imported, by its ending.
    [[nodiscard]] static bool canRead(const QString& file);
    static QString filter();

private:
    void preview();
    /// Shows a shape. @returns how far it reaches along each axis
    std::vector<double> showShape(const QJsonObject& e);
    void show(const QJsonObject& event);
    [[nodiscard]] sheet::Line line(const std::string& name) const;

    /// What a file is, by its ending.
    enum class Kind { shape, layout, picture };
    static Kind kindOf(const QString& file);

    QString m_file;
    std::string m_space;
    Kind m_kind;
    int m_request = -1;
    QComboBox* m_unit;
    /// By slot of the line: what is typed.
    std::map<std::string, QLineEdit*> m_typed;
    QLabel* m_size;
    QPushButton* m_accept;
    QStackedWidget* m_pictures;
    SceneCanvas* m_flat;
    SolidCanvas* m_solid;
    SolverClient* m_client;
};

}  // namespace yh::app
