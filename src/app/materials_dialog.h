// The materials that the program knows and those that the user keeps: search, properties, how the
// resistivity follows the temperature.
#pragma once

#include "sheet/document.h"

#include <QDialog>
#include <map>
#include <vector>

class QCustomPlot;
class QLabel;
class QLineEdit;
class QPushButton;
class QTableWidget;

namespace yh::app {

/// The user's own materials: values of material lines, by name, in a file of the user's data.
class PersonalMaterials
{
public:
    using Values = std::map<std::string, std::string>;
    [[nodiscard]] static std::vector<Values> load();
    /// Keeps a material; one of the same name is replaced. @returns whether it could be written
    static bool keep(const sheet::Line& line);
    static bool remove(const std::string& name);
    [[nodiscard]] static QString path();

private:
    static bool write(const std::vector<Values>& list);
};

class MaterialsDialog : public QDialog
{
    Q_OBJECT
public:
    explicit MaterialsDialog(QWidget* parent = nullptr);

Q_SIGNALS:
    /// Values for a material line, without its place.
    void chosen(const std::map<std::string, std::string>& values);

private:
    /// Adds a row. @param own its number among the user's materials, or -1
    void addRow(const QStringList& cells, int own);
    void fill();
    void show(int row);
    [[nodiscard]] PersonalMaterials::Values valuesOf(int row) const;

    QLineEdit* m_search;
    QTableWidget* m_table;
    QCustomPlot* m_plot;
    QTableWidget* m_values;
    QPushButton *m_use, *m_drop;
    std::vector<PersonalMaterials::Values> m_own;
};

}  // namespace yh::app
