#include "run/store.h"

#include <vtkCellArray.h>
#include <vtkCellData.h>
#include <vtkFloatArray.h>
#include <vtkIntArray.h>
#include <vtkNew.h>
#include <vtkPointData.h>
#include <vtkPoints.h>
#include <vtkStringArray.h>
#include <vtkUnstructuredGrid.h>
#include <vtkXMLUnstructuredGridWriter.h>

#include <unistd.h>
#include <algorithm>
#include <cerrno>
#include <cmath>
#include <cstdio>
#include <cstring>
#include <filesystem>

namespace yh::run {

using base::Error;
using physics::Point;

void makeFolders(const std::string& folder)
{
    std::error_code e;
    std::filesystem::create_directories(folder + "/fields", e);
    if (!e)
        std::filesystem::create_directories(folder + "/tables", e);
    if (e)
        throw Error(7201, "the result folder " + folder + " cannot be made: " + e.message());
}

void writeText(const std::string& path, const std::string& text)
{
    const std::string part = path + ".part";
    // A link in its place is taken away, not followed.
    unlink(part.c_str());
    std::FILE* f = std::fopen(part.c_str(), "wbx");
    bool good = f && std::fwrite(text.data(), 1, text.size(), f) == text.size();
    int why = errno;
    if (f && std::fclose(f) != 0 && good) {
        why = errno;
        good = false;
    }
    if (!good || std::rename(part.c_str(), path.c_str()) != 0) {
        if (good)
            why = errno;
        std::remove(part.c_str());
        throw Error(7202, "the result file " + path + " cannot be written: " + std::strerror(why));
    }
}

namespace {

struct Cut
{
    std::vector<Point> points;              ///< reference coordinates
    std::vector<std::array<int, 4>> cells;  ///< triangles: -1 last
};

Cut cutTriangle(int steps)
{
    Cut c;
    auto index = [&](int i, int j) { return j * (steps + 1) - j * (j - 1) / 2 + i; };
    for (int j = 0; j <= steps; ++j)
        for (int i = 0; i + j <= steps; ++i)
            c.points.push_back({double(i) / steps, double(j) / steps});
    for (int j = 0; j < steps; ++j)
        for (int i = 0; i + j < steps; ++i) {
            c.cells.push_back({index(i, j), index(i + 1, j), index(i, j + 1), -1});
            if (i + j + 1 < steps)
                c.cells.push_back({index(i + 1, j), index(i + 1, j + 1), index(i, j + 1), -1});
        }
    return c;
}

/// The tetrahedron whole, or in eight with its edges halved.
Cut cutTetrahedron(int steps)
{
    Cut c;
    c.points = {{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
    c.cells = {{0, 1, 2, 3}};
    if (steps < 2)
        return c;
    for (const auto& e : mesh::edgeCorner)
        c.points.push_back(0.5 * (c.points[size_t(e[0])] + c.points[size_t(e[1])]));
    // Four at the corners, four round the diagonal from edge 0-2 to edge 1-3.
    c.cells = {{0, 4, 6, 7}, {4, 1, 5, 8}, {6, 5, 2, 9}, {7, 8, 9, 3},
               {6, 8, 4, 7}, {6, 8, 5, 4}, {6, 8, 9, 5}, {6, 8, 7, 9}};
    return c;
}

}  // namespace

namespace {

bool isFarShell(const shape::Partition& partition, const mesh::Mesh& m, int cell)
{
    return partition.regions()[size_t(partition.pieces()[size_t(m.piece[size_t(cell)])].region)]
               .name == "far shell";
}

/// Writes a grid through a part file and a rename.
void writeGrid(vtkUnstructuredGrid* grid, const std::string& path)
{
    vtkNew<vtkXMLUnstructuredGridWriter> writer;
    const std::string part = path + ".part";
    unlink(part.c_str());
    writer->SetFileName(part.c_str());
    writer->SetInputData(grid);
    writer->SetDataModeToAppended();
    writer->EncodeAppendedDataOff();
    writer->SetCompressorTypeToNone();
    if (writer->Write() != 1 || writer->GetErrorCode() != 0 ||
        std::rename(part.c_str(), path.c_str()) != 0) {
        std::remove(part.c_str());
        throw Error(7202, "the result file " + path +
                              " cannot be written: the disk is full or the folder is not writable");
    }
}

/// All that fields run over; times come last.
std::vector<physics::Axis> axesOf(const physics::Solution& field)
{
    std::vector<physics::Axis> axes = field.axes();
    if (auto phase = physics::phaseAxis(field.quantities()))
        axes.push_back(std::move(*phase));
    physics::Axis time{"time", {}};
    for (const double t : field.showTimes()) {
        const std::string& name = field.quantities()[0].name;
        time.places.push_back({base::format(t, base::dim::time, 4),
                               name,
                               {name + "@" + std::to_string(time.places.size())},
                               t});
    }
    if (!time.places.empty())
        axes.push_back(std::move(time));
    return axes;
}

vtkSmartPointer<vtkIntArray> cellNumbers(const char* name)
{
    auto a = vtkSmartPointer<vtkIntArray>::New();
    a->SetName(name);
    return a;
}

/** The first row of a table along a line. */
std::string profileHead(const physics::Solution& field, const std::vector<std::string>& axes)
{
    std::string csv = "distance (m)";
    for (const auto& x : axes)
        csv += "," + x + " (m)";
    for (const auto& q : field.quantities()) {
        if (q.components == 1) {
            csv += "," + q.name + " (" + q.unit + ")";
            continue;
        }
        for (const auto& x : axes)
            csv += "," + q.name + "_" + x + " (" + q.unit + ")";
        csv += ",|" + q.name + "| (" + q.unit + ")";
    }
    csv += "\n";
    return csv;
}

void number(std::string& csv, double v)
{
    char text[40];
    std::snprintf(text, sizeof text, ",%.9g", v);
    csv += text;
}

/** The columns of every quantity; where there is no field the row stays, its values empty. */
void addValues(const physics::Solution& field, const std::vector<double>& values, size_t axes,
               bool known, std::string& csv)
{
    size_t at = 0;
    for (const auto& q : field.quantities()) {
        const size_t columns = q.components == 1 ? 1 : axes + 1;
        for (size_t k = 0; k < columns; ++k)
            if (!known)
                csv += ",";
            else if (q.components == 3 && k + 1 == columns)
                number(csv, norm(Point{values[at], values[at + 1], values[at + 2]}));
            else
                number(csv, values[at + k]);
        at += size_t(q.components);
    }
    csv += "\n";
}

}  // namespace

std::vector<physics::Axis> writeField(physics::Solution& field, const shape::Partition& partition,
                                      const std::string& path)
{
    const mesh::Mesh& m = field.mesh();
    std::vector<int> shown;
    for (int t = 0; t < m.cellCount(); ++t)
        if (!isFarShell(partition, m, t))
            shown.push_back(t);
    constexpr size_t fine = 20000, middling = 80000;
    const int steps = shown.size() < fine ? 3 : shown.size() < middling ? 2 : 1;
    const Cut cut = m.dimension == 2 ? cutTriangle(steps) : cutTetrahedron(std::min(steps, 2));
    const auto np = cut.points.size(), total = shown.size() * np;
    vtkNew<vtkPoints> points;
    points->SetDataTypeToDouble();
    points->SetNumberOfPoints(vtkIdType(total));
    std::vector<vtkSmartPointer<vtkFloatArray>> arrays;
    int width = 0;
    for (const auto& q : field.quantities()) {
        auto a = vtkSmartPointer<vtkFloatArray>::New();
        a->SetName(q.name.c_str());
        a->SetNumberOfComponents(q.components);
        a->SetNumberOfTuples(vtkIdType(total));
        arrays.push_back(a);
        width += q.components;
    }
#pragma omp parallel
    {
        std::vector<double> values(static_cast<size_t>(width));
#pragma omp for schedule(static)
        for (size_t k = 0; k < shown.size(); ++k) {
            const mesh::Geometry g(m, shown[k]);
            for (size_t i = 0; i < np; ++i) {
                const auto id = vtkIdType(k * np + i);
                const Point p = g.at(cut.points[i]);
                const double x[3] = {p.x, p.y, p.z};
                points->GetData()->SetTuple(id, x);
                field.sample(shown[k], cut.points[i], values.data());
                const double* v = values.data();
                for (const auto& a : arrays) {
                    a->SetTuple(id, v);
                    v += a->GetNumberOfComponents();
                }
            }
        }
    }
    const std::vector<double> times = field.showTimes();
    std::vector<physics::Axis> axes = axesOf(field);
    for (size_t f = 0; f < times.size(); ++f) {
        field.showAt(times[f]);
        auto a = vtkSmartPointer<vtkFloatArray>::New();
        a->SetName(axes.back().places[f].arrays.front().c_str());
        a->SetNumberOfTuples(vtkIdType(total));
#pragma omp parallel
        {
            std::vector<double> values(static_cast<size_t>(width));
#pragma omp for schedule(static)
            for (size_t k = 0; k < shown.size(); ++k)
                for (size_t i = 0; i < np; ++i) {
                    field.sample(shown[k], cut.points[i], values.data());
                    a->SetValue(vtkIdType(k * np + i), float(values[0]));
                }
        }
        arrays.push_back(a);
    }
    if (!times.empty())
        field.showAt(std::numeric_limits<double>::max());
    vtkNew<vtkCellArray> cells;
    auto piece = cellNumbers("face"), owner = cellNumbers("triangle");
    const auto corners = vtkIdType(m.dimension + 1);
    for (size_t k = 0; k < shown.size(); ++k)
        for (const auto& c : cut.cells) {
            const auto base = vtkIdType(k * np);
            const vtkIdType ids[4] = {base + c[0], base + c[1], base + c[2], base + c[3]};
            cells->InsertNextCell(corners, ids);
            piece->InsertNextValue(m.piece[size_t(shown[k])]);
            owner->InsertNextValue(shown[k]);
        }
    vtkNew<vtkUnstructuredGrid> grid;
    grid->SetPoints(points);
    grid->SetCells(m.dimension == 2 ? VTK_TRIANGLE : VTK_TETRA, cells);
    for (const auto& a : arrays)
        grid->GetPointData()->AddArray(a);
    grid->GetCellData()->AddArray(piece);
    grid->GetCellData()->AddArray(owner);
    // What the arrays are, for whoever reads the file: five texts each.
    vtkNew<vtkStringArray> words;
    words->SetName("quantities");
    for (const auto& q : field.quantities())
        for (const std::string& word :
             {q.name, q.label, q.unit, q.levels,
              std::string(q.first ? "first " : "") + (q.moves ? "moves" : "")})
            words->InsertNextValue(word);
    grid->GetFieldData()->AddArray(words);
    if (const std::string text = field.shownFor(); !text.empty()) {
        vtkNew<vtkStringArray> shownFor;
        shownFor->SetName("shown for");
        shownFor->InsertNextValue(text);
        grid->GetFieldData()->AddArray(shownFor);
    }
    vtkNew<vtkStringArray> described;
    described->SetName("axes");
    described->InsertNextValue(toJson(axes));
    grid->GetFieldData()->AddArray(described);
    writeGrid(grid, path);
    return axes;
}

void writeMesh(const mesh::Mesh& m, const std::string& path)
{
    vtkNew<vtkPoints> points;
    points->SetDataTypeToDouble();
    for (const auto* list : {&m.vertices, &m.middles})
        for (const Point& p : *list)
            points->InsertNextPoint(p.x, p.y, p.z);
    vtkNew<vtkCellArray> cells;
    auto piece = cellNumbers("face");
    for (int t = 0; t < m.cellCount(); ++t) {
        // The library numbers the nodes of quadratic cells in the order of mesh.h.
        std::vector<vtkIdType> ids;
        for (const int v : m.corners(t))
            ids.push_back(v);
        for (const int e : m.edgesOf(t))
            ids.push_back(m.vertexCount() + e);
        cells->InsertNextCell(vtkIdType(ids.size()), ids.data());
        piece->InsertNextValue(m.piece[size_t(t)]);
    }
    vtkNew<vtkUnstructuredGrid> grid;
    grid->SetPoints(points);
    grid->SetCells(m.dimension == 2 ? VTK_QUADRATIC_TRIANGLE : VTK_QUADRATIC_TETRA, cells);
    grid->GetCellData()->AddArray(piece);
    writeGrid(grid, path);
}

std::string fieldLines(const physics::Solution& field, const physics::Study& problem,
                       const shape::Partition& partition, int count)
{
    const mesh::Mesh& m = field.mesh();
    if (m.dimension == 3)
        return "[]";
    const std::vector<char> seeds = problem.lineSeeds(partition);
    int offset = 0, width = 0;
    for (const auto& q : field.quantities()) {
        if (q.name == problem.lineQuantity())
            offset = width;
        width += q.components;
    }
    std::vector<double> values(static_cast<size_t>(width));
    auto fluxAt = [&](int cell, const Point& xi) {
        field.sample(cell, xi, values.data());
        const double* v = values.data() + offset;
        return Point{v[0], v[1], v[2]};
    };
    // Pieces of conductor surface in their order, with the charge that each carries.
    struct Piece
    {
        int triangle, k;
        double charge;
    };
    std::vector<Piece> pieces;
    double total = 0;
    for (int e = 0; e < m.edgeCount(); ++e) {
        if (m.sideTag[size_t(e)] < 0 || !seeds[size_t(m.sideTag[size_t(e)])])
            continue;
        for (const int t : m.sideCells[size_t(e)]) {
            if (t < 0)
                continue;
            const int k = m.localSide(t, e);
            const mesh::Geometry g(m, t);
            const Point xi = g.onSide(k, {0.5}), p = g.at(xi);
            // Inward normal of the cell: out of the conductor.
            const double q =
                -dot(fluxAt(t, xi), g.outward(k, xi)) * measureAt(problem.measure(), p);
            if (q > 0) {
                pieces.push_back({t, k, q});
                total += q;
            }
        }
    }
    std::string json = "[";
    if (!(total > 0))
        return "[]";
    const mesh::Locator locator(m);
    // Neighbouring pieces follow each other, so that lines spread evenly along the surface.
    std::sort(pieces.begin(), pieces.end(), [&](const Piece& a, const Piece& b) {
        const int ca = m.sideTag[size_t(m.cellEdges[size_t(a.triangle)][size_t(a.k)])],
                  cb = m.sideTag[size_t(m.cellEdges[size_t(b.triangle)][size_t(b.k)])];
        if (ca != cb)
            return ca < cb;
        return m.parameters[size_t(m.cellEdges[size_t(a.triangle)][size_t(a.k)])][0] <
               m.parameters[size_t(m.cellEdges[size_t(b.triangle)][size_t(b.k)])][0];
    });
    double sum = 0;
    int drawn = 0;
    char buffer[64];
    for (const Piece& piece : pieces) {
        const double before = sum;
        sum += piece.charge;
        while (drawn < count && (drawn + 0.5) * total / count < sum) {
            const double f = ((drawn + 0.5) * total / count - before) / piece.charge;
            ++drawn;
            const mesh::Geometry g(m, piece.triangle);
            // Start a little inside the cell.
            constexpr double inside = 0.03;
            const Point xi = (1 - inside) * g.onSide(piece.k, {f}) + inside * g.centre();
            mesh::Locator::Hit hit{piece.triangle, xi};
            Point p = g.at(xi);
            std::string line;
            constexpr int mostSteps = 3000;
            for (int step = 0; step < mostSteps && hit.cell >= 0; ++step) {
                if (isFarShell(partition, m, hit.cell))
                    break;
                std::snprintf(buffer, sizeof buffer, "%s[%.6g,%.6g]", line.empty() ? "" : ",", p.x,
                              p.y);
                line += buffer;
                const mesh::Geometry here(m, hit.cell);
                const double h = 0.25 * std::sqrt(std::abs(here.determinant(here.centre())));
                auto direction = [&](const mesh::Locator::Hit& at) {
                    const Point flux = fluxAt(at.cell, at.xi);
                    const double n = norm(flux);
                    return n > 0 ? (1 / n) * flux : Point{};
                };
                const Point d = direction(hit), half = p + 0.5 * h * d;
                const auto mid = locator.find(half);
                const Point d2 = mid.cell >= 0 ? direction(mid) : d;
                if (!(dot(d2, d2) > 0))
                    break;
                p = p + h * d2;
                hit = locator.find(p);
            }
            std::snprintf(buffer, sizeof buffer, ",[%.6g,%.6g]", p.x, p.y);
            json += (json.size() > 1 ? ",\n[" : "[") + line + buffer + "]";
        }
    }
    return json + "]";
}

std::string profileCsv(const physics::Solution& field, const shape::Partition& partition,
                       const sheet::Model& model, const sheet::Line& line)
{
    const Point a = model.point(line, "from"), b = model.point(line, "to");
    const int n = std::max(2, model.count(line, "count"));
    const bool solid = field.mesh().dimension == 3,
               axi = model.space() == sheet::Space::axisymmetric;
    const mesh::Locator locator(field.mesh());
    const std::vector<std::string> axes = solid ? std::vector<std::string>{"x", "y", "z"}
                                          : axi ? std::vector<std::string>{"r", "z"}
                                                : std::vector<std::string>{"x", "y"};
    std::string csv = profileHead(field, axes);
    size_t width = 0;
    for (const auto& q : field.quantities())
        width += size_t(q.components);
    std::vector<double> values(width);
    for (int i = 0; i < n; ++i) {
        const double f = double(i) / (n - 1);
        const Point p = a + f * (b - a);
        char text[40];
        std::snprintf(text, sizeof text, "%.9g", f * norm(b - a));
        csv += text;
        const double place[3] = {p.x, p.y, p.z};
        for (size_t k = 0; k < axes.size(); ++k)
            number(csv, place[k]);
        const auto hit = locator.find(partition.openShell().drawn(p));
        if (hit.cell >= 0)
            field.sample(hit.cell, hit.xi, values.data());
        addValues(field, values, axes.size(), hit.cell >= 0, csv);
    }
    return csv;
}

namespace {
std::string cell(const std::string& text)
{
    return text.find(',') == std::string::npos ? text : '"' + text + '"';
}
std::string cell(double v)
{
    char b[40];
    std::snprintf(b, sizeof b, "%.9g", v);
    return std::isfinite(v) ? b : "";
}
}  // namespace

std::string sweepCsv(const Result& r)
{
    std::string csv;
    for (size_t i = 0; i < r.swept.size(); ++i)
        csv += (i ? "," : "") +
               cell(r.swept[i] + (r.sweptUnits[i].empty() ? "" : " (" + r.sweptUnits[i] + ")"));
    for (const Finding& f : r.report.findings)
        if (f.conductors.empty() && f.table.empty())
            csv += "," + cell(f.label + " (" + f.unit + ")") + "," +
                   cell("± " + f.label + " (" + f.unit + ")");
    csv += "\n";
    for (const SweepPoint& p : r.points) {
        for (size_t i = 0; i < p.parameters.size(); ++i)
            csv += (i ? "," : "") + cell(p.parameters[i]);
        for (const Finding& f : p.report.findings)
            if (f.conductors.empty() && f.table.empty())
                csv += "," + cell(f.value.empty() ? NAN : f.value[0]) + "," +
                       cell(f.error.empty() ? NAN : f.error[0]);
        csv += "\n";
    }
    return csv;
}

std::string findingsCsv(const Report& report)
{
    std::string csv = "finding,value,error,unit\n";
    for (const Finding& f : report.findings)
        for (size_t i = 0; i < f.value.size(); ++i) {
            std::string name = f.label;
            if (const size_t n = f.conductors.size(); n > 0)
                name += " " + f.conductors[i / n] + " / " + f.conductors[i % n];
            csv += cell(name) + "," + cell(f.value[i]) + "," +
                   cell(i < f.error.size() && !f.noLimit ? f.error[i] : NAN) + "," + f.unit + "\n";
        }
    return csv;
}

}  // namespace yh::run
