#include "run/store.h"

#include <vtkCellArray.h>
#include <vtkCellData.h>
#include <vtkDoubleArray.h>
#include <vtkFloatArray.h>
#include <vtkIntArray.h>
#include <vtkNew.h>
#include <vtkPointData.h>
#include <vtkPoints.h>
#include <vtkUnstructuredGrid.h>
#include <vtkXMLUnstructuredGridWriter.h>

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <cstdio>
#include <cstring>
#include <filesystem>

namespace yh::run {

using base::Error;
using physics::ElectrostaticSolver;
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
    std::FILE* f = std::fopen(part.c_str(), "wb");
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
    std::vector<Point> points;  ///< reference coordinates
    std::vector<std::array<int, 3>> cells;
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
            c.cells.push_back({index(i, j), index(i + 1, j), index(i, j + 1)});
            if (i + j + 1 < steps)
                c.cells.push_back({index(i + 1, j), index(i + 1, j + 1), index(i, j + 1)});
        }
    return c;
}

}  // namespace

void writeField(const ElectrostaticSolver& s, const shape::Partition& partition,
                const std::string& path)
{
    const mesh::Mesh& m = s.space().mesh();
    std::vector<int> shown;
    for (int t = 0; t < m.cellCount(); ++t)
        if (partition.regions()[size_t(partition.pieces()[size_t(m.piece[size_t(t)])].region)]
                .name != "far shell")
            shown.push_back(t);
    constexpr size_t fine = 20000, middling = 80000;
    const Cut cut = cutTriangle(shown.size() < fine ? 3 : shown.size() < middling ? 2 : 1);
    const auto np = cut.points.size(), total = shown.size() * np;
    vtkNew<vtkPoints> points;
    points->SetDataTypeToDouble();
    points->SetNumberOfPoints(vtkIdType(total));
    auto scalars = [&](const char* name, int components) {
        auto a = vtkSmartPointer<vtkFloatArray>::New();
        a->SetName(name);
        a->SetNumberOfComponents(components);
        a->SetNumberOfTuples(vtkIdType(total));
        return a;
    };
    auto V = scalars("V", 1), E = scalars("E", 3), D = scalars("D", 3),
         w = scalars("energy density", 1);
    const int order = s.order();
#pragma omp parallel for schedule(static)
    for (size_t k = 0; k < shown.size(); ++k) {
        const int t = shown[k];
        const mesh::Geometry g(m, t);
        for (size_t i = 0; i < np; ++i) {
            const auto id = vtkIdType(k * np + i);
            const Point &xi = cut.points[i], p = g.at(xi), e = s.field(order, t, xi);
            const Point d = s.permittivity(t, p).times(e);
            const double x[3] = {p.x, p.y, p.z};
            points->GetData()->SetTuple(id, x);
            V->SetValue(id, float(s.potential(order, {t, xi})));
            const float ev[3] = {float(e.x), float(e.y), float(e.z)},
                        dv[3] = {float(d.x), float(d.y), float(d.z)};
            E->SetTypedTuple(id, ev);
            D->SetTypedTuple(id, dv);
            w->SetValue(id, float(0.5 * dot(e, d)));
        }
    }
    vtkNew<vtkCellArray> cells;
    vtkNew<vtkIntArray> face, triangle;
    face->SetName("face");
    triangle->SetName("triangle");
    for (size_t k = 0; k < shown.size(); ++k)
        for (const auto& c : cut.cells) {
            const auto base = vtkIdType(k * np);
            const vtkIdType ids[3] = {base + c[0], base + c[1], base + c[2]};
            cells->InsertNextCell(3, ids);
            face->InsertNextValue(m.piece[size_t(shown[k])]);
            triangle->InsertNextValue(shown[k]);
        }
    vtkNew<vtkUnstructuredGrid> grid;
    grid->SetPoints(points);
    grid->SetCells(VTK_TRIANGLE, cells);
    for (const auto& a : {V, E, D, w})
        grid->GetPointData()->AddArray(a);
    grid->GetCellData()->AddArray(face);
    grid->GetCellData()->AddArray(triangle);
    vtkNew<vtkXMLUnstructuredGridWriter> writer;
    const std::string part = path + ".part";
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

std::string fieldLines(const ElectrostaticSolver& s, const shape::Partition& partition, int count)
{
    const mesh::Mesh& m = s.space().mesh();
    const auto& problem = s.problem();
    const int order = s.order();
    std::vector<char> metal(partition.sides().size(), 0);
    for (const auto& c : problem.conductors)
        for (const int e : c.sides)
            metal[size_t(e)] = c.name != "infinity";
    // Pieces of conductor surface in their order, with the charge that each carries.
    struct Piece
    {
        int triangle, k;
        double charge;
    };
    std::vector<Piece> pieces;
    double total = 0;
    for (int e = 0; e < m.edgeCount(); ++e) {
        if (m.sideTag[size_t(e)] < 0 || !metal[size_t(m.sideTag[size_t(e)])])
            continue;
        for (const int t : m.sideCells[size_t(e)]) {
            if (t < 0)
                continue;
            const int k = m.localSide(t, e);
            const mesh::Geometry g(m, t);
            const Point xi = g.onSide(k, {0.5}), p = g.at(xi);
            // Inward normal of the cell: out of the conductor.
            const double q =
                -dot(s.permittivity(t, p).times(s.field(order, t, xi)), g.outward(k, xi)) *
                (problem.measure == fem::Measure::axisymmetric ? p.x : 1.0);
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
                if (partition
                        .regions()[size_t(
                            partition.pieces()[size_t(m.piece[size_t(hit.cell)])].region)]
                        .name == "far shell")
                    break;
                std::snprintf(buffer, sizeof buffer, "%s[%.6g,%.6g]", line.empty() ? "" : ",", p.x,
                              p.y);
                line += buffer;
                const mesh::Geometry here(m, hit.cell);
                const double h = 0.25 * std::sqrt(std::abs(here.determinant(here.centre())));
                auto direction = [&](const mesh::Locator::Hit& at) {
                    const Point E = s.field(order, at.cell, at.xi);
                    const double n = norm(E);
                    return n > 0 ? (1 / n) * E : Point{};
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

std::string profileCsv(const ElectrostaticSolver& s, const sheet::Model& model,
                       const sheet::Line& line)
{
    const Point a = model.point(line, "from"), b = model.point(line, "to");
    const int n = std::max(2, model.count(line, "count"));
    const mesh::Locator locator(s.space().mesh());
    const bool axi = model.space() == sheet::Space::axisymmetric;
    std::string csv =
        std::string("distance (m),") +
        (axi ? "r (m),z (m),V (V),E_r (V/m),E_z (V/m)" : "x (m),y (m),V (V),E_x (V/m),E_y (V/m)") +
        ",|E| (V/m)\n";
    char row[256];
    for (int i = 0; i < n; ++i) {
        const double f = double(i) / (n - 1);
        const Point p{a.x + f * (b.x - a.x), a.y + f * (b.y - a.y)};
        const auto hit = locator.find(p);
        const double d = f * std::hypot(b.x - a.x, b.y - a.y);
        if (hit.cell < 0) {
            // Inside a conductor or outside the drawing: the row stays, its values empty.
            std::snprintf(row, sizeof row, "%.9g,%.9g,%.9g,,,,\n", d, p.x, p.y);
        } else {
            const Point E = s.field(s.order(), hit.cell, hit.xi);
            std::snprintf(row, sizeof row, "%.9g,%.9g,%.9g,%.9g,%.9g,%.9g,%.9g\n", d, p.x, p.y,
                          s.potential(s.order(), hit), E.x, E.y, std::hypot(E.x, E.y));
        }
        csv += row;
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
