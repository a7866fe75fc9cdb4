#include "sheet/document.h"
#include "sheet/schema.h"

#include <nlohmann/json.hpp>

#include <unistd.h>
#include <algorithm>
#include <cerrno>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <sstream>

namespace yh::sheet {

namespace {

using Json = nlohmann::ordered_json;

// Values are walked by recursion; a sheet needs three levels.
constexpr int deepestNesting = 100;
constexpr size_t mostLines = 10000;
constexpr std::uintmax_t largestFile = std::uintmax_t(256) << 20;

/// How many lists and objects stand in each other at most.
int nesting(std::string_view text)
{
    int depth = 0, deepest = 0;
    bool quoted = false;
    for (size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (quoted && c == '\\')
            ++i;
        else if (c == '"')
            quoted = !quoted;
        else if (!quoted && (c == '[' || c == '{'))
            deepest = std::max(deepest, ++depth);
        else if (!quoted && (c == ']' || c == '}'))
            --depth;
    }
    return deepest;
}

std::string quoted(const std::string& text)
{
    return Json(text).dump(-1, ' ', false, Json::error_handler_t::replace);
}

std::string writeLine(const Line& line)
{
    std::string s = "{\"line\": " + quoted(line.kind);
    auto put = [&](const std::string& key, const std::string& json) {
        s += ", " + quoted(key) + ": " + json;
    };
    const Kind* kind = findKind(line.kind);
    if (kind)
        for (const Slot& f : kind->entries)
            if (line.has(f.key))
                put(f.key, quoted(line.get(f.key)));
    for (const auto& [key, text] : line.values)
        if (!text.empty() && (!kind || !kind->slot(key)))
            put(key, quoted(text));
    for (const auto& [key, json] : line.extra)
        put(key, json);
    return s + "}";
}

/// Line and column of a byte, for messages about broken JSON.
std::string position(std::string_view text, size_t byte)
{
    size_t row = 1, column = 1;
    for (size_t i = 0; i + 1 < byte && i < text.size(); ++i) {
        if (text[i] == '\n') {
            ++row;
            column = 1;
        } else {
            ++column;
        }
    }
    return "line " + std::to_string(row) + ", column " + std::to_string(column);
}

void readLine(const Json& j, size_t number, Document& doc, base::Faults& faults)
{
    if (!j.is_object() || !j.contains("line") || !j["line"].is_string()) {
        faults.push_back({1203,
                          {},
                          "entry " + std::to_string(number) +
                              " of \"lines\" is not a line: an object with \"line\": kind is "
                              "expected; it was left out"});
        return;
    }
    Line line;
    line.id = doc.nextId++;
    line.kind = j["line"].get<std::string>();
    for (const auto& [key, value] : j.items()) {
        if (key == "line")
            continue;
        if (value.is_string())
            line.values[key] = value.get<std::string>();
        else if (value.is_number())
            line.values[key] = value.dump();
        else
            line.extra[key] = value.dump();
    }
    doc.lines.push_back(std::move(line));
}

}  // namespace

std::string write(const Document& document)
{
    std::string s = "{\n\"yellowhorn sheet\": " + std::to_string(formatVersion) + ",\n";
    for (const auto& [key, json] : document.extra)
        s += quoted(key) + ": " + json + ",\n";
    s += "\"lines\": [\n";
    for (size_t i = 0; i < document.lines.size(); ++i)
        s += writeLine(document.lines[i]) + (i + 1 < document.lines.size() ? ",\n" : "\n");
    return s + "]\n}\n";
}

ReadResult read(std::string_view text)
{
    ReadResult result;
    Json j;
    if (nesting(text) > deepestNesting) {
        result.faults.push_back({1201,
                                 {},
                                 "this is not a sheet: lists stand in each other more than " +
                                     std::to_string(deepestNesting) + " deep"});
        return result;
    }
    try {
        j = Json::parse(text);
    } catch (const Json::parse_error& e) {
        result.faults.push_back({1201,
                                 {},
                                 "this is not a sheet: the JSON breaks off or goes wrong at " +
                                     position(text, e.byte)});
        return result;
    } catch (const Json::exception&) {
        result.faults.push_back(
            {1201, {}, "this is not a sheet: a number in it is larger than a computer holds"});
        return result;
    }
    if (!j.is_object() || !j.contains("yellowhorn sheet") || !j.contains("lines") ||
        !j["lines"].is_array()) {
        result.faults.push_back({1202,
                                 {},
                                 "this is JSON but not a sheet: \"yellowhorn sheet\" and a list "
                                 "\"lines\" are expected"});
        return result;
    }
    if (j["lines"].size() > mostLines) {
        result.faults.push_back({1207,
                                 {},
                                 "this sheet has " + std::to_string(j["lines"].size()) +
                                     " lines; no more than " + std::to_string(mostLines) +
                                     " are read"});
        return result;
    }
    Document doc;
    for (const auto& [key, value] : j.items())
        if (key != "yellowhorn sheet" && key != "lines")
            doc.extra[key] = value.dump();
    size_t number = 0;
    for (const Json& line : j["lines"])
        readLine(line, ++number, doc, result.faults);
    const Json& version = j["yellowhorn sheet"];
    if (version.is_number_integer() && version.get<int>() > formatVersion)
        result.faults.push_back({1204,
                                 {},
                                 "this sheet was written by a newer version (format " +
                                     version.dump() + ", this program knows " +
                                     std::to_string(formatVersion) +
                                     "); what is unknown here is kept as it is"});
    result.document = std::move(doc);
    return result;
}

ReadResult readFile(const std::string& path)
{
    // Pipes and devices may never end; where nothing is, opening says why.
    std::error_code none;
    const bool there = std::filesystem::exists(path, none);
    if (there && !std::filesystem::is_regular_file(path, none))
        return {std::nullopt, {{1205, {}, path + " is a folder or a device, not a file"}}};
    if (there && std::filesystem::file_size(path, none) > largestFile)
        return {std::nullopt,
                {{1206, {}, "the file " + path + " has more than 256 MB; no sheet is as large"}}};
    std::ifstream in(path, std::ios::binary);
    if (!in)
        return {std::nullopt,
                {{1205, {}, "the file " + path + " cannot be opened: " + std::strerror(errno)}}};
    std::ostringstream text;
    text << in.rdbuf();
    if (in.bad())
        return {std::nullopt,
                {{1206, {}, "the file " + path + " cannot be read: " + std::strerror(errno)}}};
    return read(text.str());
}

std::string writeFile(const Document& document, const std::string& path)
{
    const std::string beside = path + ".part";
    const std::string text = write(document);
    // A link in its place is taken away, not followed.
    unlink(beside.c_str());
    std::FILE* f = std::fopen(beside.c_str(), "wbx");
    if (!f)
        return "the file " + path + " cannot be written: " + std::strerror(errno);
    bool good = std::fwrite(text.data(), 1, text.size(), f) == text.size();
    good = std::fflush(f) == 0 && good;
    good = fsync(fileno(f)) == 0 && good;
    int error = errno;
    if (std::fclose(f) != 0 && good) {
        error = errno;
        good = false;
    }
    if (good && std::rename(beside.c_str(), path.c_str()) == 0)
        return {};
    if (good)
        error = errno;
    std::remove(beside.c_str());
    return "the file " + path + " cannot be written: " + std::strerror(error) +
           "; what was there before is untouched";
}

std::string hash(const Document& document)
{
    // FNV-1a, 64 bit: names a state, guards nothing.
    std::uint64_t h = 1469598103934665603ull;
    for (const Line& l : document.lines) {
        if (l.kind == "aim")
            continue;
        for (const char c : writeLine(l) + "\n") {
            h ^= static_cast<unsigned char>(c);
            h *= 1099511628211ull;
        }
    }
    char buffer[17];
    std::snprintf(buffer, sizeof buffer, "%016llx", static_cast<unsigned long long>(h));
    return buffer;
}

}  // namespace yh::sheet
