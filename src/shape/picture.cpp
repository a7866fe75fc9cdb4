// Regions of a grey-level picture: pixels between two levels, their staircases straightened.
#include "base/quantity.h"
#include "shape/native.h"

#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Wire.hxx>
#include <gp_Pln.hxx>

#include <png.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <fstream>
#include <map>

namespace yh::shape {

namespace {

struct Pixel
{
    double x = 0, y = 0;
};
using Loop = std::vector<Pixel>;

/// A picture in grey, its first row on top.
struct Grey
{
    int width = 0, height = 0;
    std::vector<unsigned char> level;
    [[nodiscard]] int at(int x, int y) const
    {
        return x < 0 || y < 0 || x >= width || y >= height
                   ? -1
                   : level[size_t(y) * size_t(width) + size_t(x)];
    }
};

Grey read(const std::string& file, const base::Place& place)
{
    checkFile(file, place);
    png_image image{};
    image.version = PNG_IMAGE_VERSION;
    if (!png_image_begin_read_from_file(&image, file.c_str()))
        throw base::Error(3070, "the file " + file + " cannot be read as a PNG picture", place);
    constexpr unsigned widest = 8192;
    if (image.width > widest || image.height > widest) {
        png_image_free(&image);
        throw base::Error(3071,
                          "the picture " + file + " is larger than " + std::to_string(widest) +
                              " pixels; scale it down",
                          place);
    }
    image.format = PNG_FORMAT_GRAY;
    Grey grey{int(image.width), int(image.height), {}};
    grey.level.resize(PNG_IMAGE_SIZE(image));
    // What is transparent counts as white.
    png_color white{255, 255, 255};
    if (!png_image_finish_read(&image, &white, grey.level.data(), 0, nullptr)) {
        png_image_free(&image);
        throw base::Error(3070, "the picture " + file + " is broken", place);
    }
    return grey;
}

/// The commonest levels, with their shares.
std::string levelsOf(const Grey& grey)
{
    std::array<std::pair<size_t, int>, 256> count{};
    for (int l = 0; l < 256; ++l)
        count[size_t(l)].second = l;
    for (const unsigned char l : grey.level)
        ++count[l].first;
    std::stable_sort(count.begin(), count.end(),
                     [](const auto& a, const auto& b) { return a.first > b.first; });
    std::string text;
    constexpr size_t most = 6;
    for (size_t i = 0; i < most && count[i].first > 0; ++i) {
        const double share = 100.0 * double(count[i].first) / double(grey.level.size());
        text += (i ? ", " : "") + std::to_string(count[i].second) + " (" +
                base::formatNumber(share, 2) + " %)";
    }
    return text;
}

/** Follows the sides of pixels round from a corner, and takes them away. */
Loop followed(std::vector<std::array<bool, 4>>& sides, size_t row, int x, int y, int d)
{
    constexpr int dx[] = {1, 0, -1, 0}, dy[] = {0, 1, 0, -1};
    auto corner = [&](int i, int j) { return size_t(j) * row + size_t(i); };
    Loop loop;
    int px = x, py = y, way = d;
    while (sides[corner(px, py)][size_t(way)]) {
        sides[corner(px, py)][size_t(way)] = false;
        loop.push_back({double(px), double(py)});
        px += dx[way];
        py += dy[way];
        // Where pixels meet at a corner only, they stay apart: left first.
        for (const int turn : {1, 0, 3}) {
            const int next = (way + turn) % 4;
            if (sides[corner(px, py)][size_t(next)]) {
                way = next;
                break;
            }
        }
    }
    return loop;
}

/// Loops round the pixels wanted, which lie to the left; y upwards.
std::vector<Loop> outlines(const Grey& grey, int low, int high)
{
    auto isIn = [&](int x, int y) {
        const int l = grey.at(x, grey.height - 1 - y);
        return l >= low && l <= high;
    };
    // Sides of pixels from each corner on, by direction: right, up, left, down.
    const size_t row = size_t(grey.width) + 1;
    std::vector<std::array<bool, 4>> sides(row * (size_t(grey.height) + 1));
    auto corner = [&](int x, int y) { return size_t(y) * row + size_t(x); };
    for (int y = 0; y < grey.height; ++y)
        for (int x = 0; x < grey.width; ++x) {
            if (!isIn(x, y))
                continue;
            if (!isIn(x, y - 1))
                sides[corner(x, y)][0] = true;
            if (!isIn(x + 1, y))
                sides[corner(x + 1, y)][1] = true;
            if (!isIn(x, y + 1))
                sides[corner(x + 1, y + 1)][2] = true;
            if (!isIn(x - 1, y))
                sides[corner(x, y + 1)][3] = true;
        }
    std::vector<Loop> loops;
    for (int y = 0; y <= grey.height; ++y)
        for (int x = 0; x <= grey.width; ++x)
            for (int d = 0; d < 4; ++d) {
                if (!sides[corner(x, y)][size_t(d)])
                    continue;
                loops.push_back(followed(sides, row, x, y, d));
            }
    return loops;
}

double distance(const Pixel& p, const Pixel& a, const Pixel& b)
{
    const double ux = b.x - a.x, uy = b.y - a.y, length = std::hypot(ux, uy);
    return length > 0 ? std::abs(ux * (p.y - a.y) - uy * (p.x - a.x)) / length
                      : std::hypot(p.x - a.x, p.y - a.y);
}

/// Leaves out what lies near straight lines between what stays.
void simplify(const Loop& loop, size_t from, size_t to, double near, std::vector<char>& stays)
{
    std::vector<std::pair<size_t, size_t>> open{{from, to}};
    while (!open.empty()) {
        const auto [a, b] = open.back();
        open.pop_back();
        double most = near;
        size_t farthest = a;
        for (size_t i = a + 1; i < b; ++i)
            if (const double d = distance(loop[i], loop[a], loop[b % loop.size()]); d > most) {
                most = d;
                farthest = i;
            }
        if (farthest == a)
            continue;
        stays[farthest] = 1;
        open.push_back({a, farthest});
        open.push_back({farthest, b});
    }
}

/// The staircase round pixels as straight lines: through the middles of their sides, but round
/// corners between long straight pieces.
Loop straightened(const Loop& pixels)
{
    const size_t n = pixels.size();
    auto side = [&](size_t i) {
        const Pixel &a = pixels[i % n], &b = pixels[(i + 1) % n];
        return Pixel{b.x - a.x, b.y - a.y};
    };
    constexpr size_t longEnough = 4;
    auto isStraight = [&](size_t first) {
        for (size_t k = 1; k < longEnough; ++k)
            if (side(first + k).x != side(first).x || side(first + k).y != side(first).y)
                return false;
        return true;
    };
    Loop loop;
    for (size_t i = 0; i < n; ++i) {
        const Pixel before = side(i + n - 1), now = side(i);
        if ((before.x != now.x || before.y != now.y) && n > 2 * longEnough && isStraight(i) &&
            isStraight(i + n - longEnough))
            loop.push_back(pixels[i]);
        loop.push_back({pixels[i].x + now.x / 2, pixels[i].y + now.y / 2});
    }
    // Two places that stay: the first, and the one farthest from it.
    size_t far = 0;
    for (size_t i = 1; i < loop.size(); ++i)
        if (std::hypot(loop[i].x - loop[0].x, loop[i].y - loop[0].y) >
            std::hypot(loop[far].x - loop[0].x, loop[far].y - loop[0].y))
            far = i;
    std::vector<char> stays(loop.size() + 1, 0);
    stays[0] = stays[far] = 1;
    constexpr double near = 0.55;
    simplify(loop, 0, far, near, stays);
    simplify(loop, far, loop.size(), near, stays);
    Loop kept;
    for (size_t i = 0; i < loop.size(); ++i)
        if (stays[i])
            kept.push_back(loop[i]);
    return kept;
}

double area(const Loop& loop)
{
    double sum = 0;
    for (size_t i = 0; i < loop.size(); ++i) {
        const Pixel &a = loop[i], &b = loop[(i + 1) % loop.size()];
        sum += a.x * b.y - b.x * a.y;
    }
    return sum / 2;
}

bool contains(const Loop& loop, const Pixel& p)
{
    bool inside = false;
    for (size_t i = 0; i < loop.size(); ++i) {
        const Pixel &a = loop[i], &b = loop[(i + 1) % loop.size()];
        if ((a.y > p.y) != (b.y > p.y) && p.x < a.x + (b.x - a.x) * (p.y - a.y) / (b.y - a.y))
            inside = !inside;
    }
    return inside;
}

/** A wire along an outline, the picture's middle at the origin. */
TopoDS_Wire wireAlong(const Loop& loop, const Grey& grey, double scale)
{
    BRepBuilderAPI_MakeWire w;
    auto at = [&](size_t i) {
        const Pixel& p = loop[i % loop.size()];
        return gp_Pnt((p.x - grey.width / 2.0) * scale, (p.y - grey.height / 2.0) * scale, 0);
    };
    for (size_t i = 0; i < loop.size(); ++i)
        w.Add(BRepBuilderAPI_MakeEdge(at(i), at(i + 1)).Edge());
    return w.Wire();
}

}  // namespace

TopoDS_Shape importPicture(const std::string& file, int low, int high, double width, double unit,
                           base::Place place)
{
    if (low > high)
        throw base::Error(3074,
                          "the darkest level, " + std::to_string(low) +
                              ", is lighter than the lightest one, " + std::to_string(high),
                          {place.line, "to", 0});
    const Grey grey = read(file, place);
    std::vector<Loop> outer, holes;
    size_t corners = 0;
    // Specks of a few pixels are noise.
    constexpr double speck = 3;
    for (const Loop& pixels : outlines(grey, low, high)) {
        Loop loop = straightened(pixels);
        if (loop.size() < 3 || std::abs(area(loop)) < speck)
            continue;
        corners += loop.size();
        (area(loop) > 0 ? outer : holes).push_back(std::move(loop));
    }
    if (outer.empty())
        throw base::Error(3072,
                          "no region of " + file + " has a grey level from " + std::to_string(low) +
                              " to " + std::to_string(high) + "; it has " + levelsOf(grey),
                          place);
    constexpr size_t most = 20000;
    if (corners > most)
        throw base::Error(3073,
                          "the borders of these levels have " + std::to_string(corners) +
                              " corners, more than " + std::to_string(most) +
                              ": smooth the picture, or widen the range of levels",
                          place);
    const double scale = width / unit / grey.width;

    std::vector<TopoDS_Shape> faces;
    for (const Loop& loop : outer) {
        BRepBuilderAPI_MakeFace face(gp_Pln(gp::Origin(), gp::DZ()), wireAlong(loop, grey, scale),
                                     true);
        for (const Loop& hole : holes) {
            // Of outlines about a hole its own is the smallest.
            const Loop* nearest = nullptr;
            for (const Loop& other : outer)
                if (contains(other, hole[0]) && (!nearest || area(other) < area(*nearest)))
                    nearest = &other;
            if (nearest == &loop)
                face.Add(wireAlong(hole, grey, scale));
        }
        if (face.IsDone())
            faces.emplace_back(face.Face());
    }
    return faces.size() == 1 ? faces.front() : TopoDS_Shape(compoundOf(faces));
}

}  // namespace yh::shape
