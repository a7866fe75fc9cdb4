// The sheet as plain values: a list of lines, each a kind with texts under keys. Undo is a list
// of documents. What kinds and keys there are, schema.h says.
#pragma once

#include "base/fault.h"

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace yh::sheet {

/// A piece of text that is somebody else's, as an argument: a literal or a string.
struct Text
{
    Text(const char* text) : view(text) {}
    Text(const std::string& text) : view(text) {}
    std::string_view view;
};

/// Texts under keys, `{{"name", "A"}, {"voltage", "1 V"}}`. Such lists stand in their hundreds in
/// fields' faces and in tests: written as pairs of a map's own type, every two lengths of literals
/// would make the compiler instantiate a dozen constructors.
class Values : public std::map<std::string, std::string>
{
public:
    struct Entry
    {
        Text key, value;
    };
    Values() = default;
    /// Of two equal keys the first counts, as in a map.
    Values(std::initializer_list<Entry> entries);
    Values(std::map<std::string, std::string> values) : map(std::move(values)) {}
};

/// One line of the sheet. Every value is the text that the user wrote (`2*gap + 10 um`).
struct Line
{
    int id = 0;        ///< unique in its document, not kept in the file
    std::string kind;  ///< key of a Kind of the schema; unknown kinds are kept as they are
    std::map<std::string, std::string> values;
    std::map<std::string, std::string> extra;  ///< fields of a newer version, as JSON text
    bool operator==(const Line&) const = default;

    [[nodiscard]] std::string get(const std::string& key) const
    {
        auto it = values.find(key);
        return it == values.end() ? std::string() : it->second;
    }
    [[nodiscard]] bool has(const std::string& key) const { return !get(key).empty(); }
    [[nodiscard]] std::string name() const { return get("name"); }
};

struct Document
{
    std::vector<Line> lines;
    std::map<std::string, std::string> extra;  ///< top-level fields of a newer version, JSON text
    int nextId = 1;
    bool operator==(const Document&) const = default;

    /// Appends behind the last line of the same section; gives it an identity.
    int add(const std::string& kind, Values values);
    /// Inserts right behind the line `after`; at the end of the section if that is not there.
    int addAfter(int after, const std::string& kind, Values values);
    void remove(int id);
    /// Moves a line by `steps` places among the lines of its section.
    void move(int id, int steps);
    void set(int id, const std::string& key, const std::string& text);
    [[nodiscard]] const Line* find(int id) const;
    [[nodiscard]] const Line* findNamed(const std::string& name) const;
    [[nodiscard]] std::vector<const Line*> ofKind(const std::string& kind) const;
    [[nodiscard]] const Line* first(const std::string& kind) const;
    /// A name that is not taken: A, B, C … for electrodes, `stem`, `stem2` … else.
    [[nodiscard]] std::string freeName(const std::string& stem) const;
};

/// Undo and redo as document values. Bounded: old states fall off at the far end.
class History
{
public:
    explicit History(Document start = {});
    [[nodiscard]] const Document& current() const { return m_states[m_at]; }
    void push(Document next);
    [[nodiscard]] bool canUndo() const { return m_at > 0; }
    [[nodiscard]] bool canRedo() const { return m_at + 1 < m_states.size(); }
    void undo();
    void redo();

private:
    std::vector<Document> m_states;
    size_t m_at = 0;
};

/// Version of the file format written by this program.
inline constexpr int formatVersion = 1;

/// The sheet as JSON with one line of the sheet per line of the file, keys in schema order.
[[nodiscard]] std::string write(const Document& document);

struct ReadResult
{
    std::optional<Document> document;
    base::Faults faults;  ///< why there is no document, or what was odd in it
};
/// Reads JSON text. Broken JSON, a wrong shape and bad values give faults, never an exception.
[[nodiscard]] ReadResult read(std::string_view json);
[[nodiscard]] ReadResult readFile(const std::string& path);
/// Writes beside the target and renames, so that a full disk never costs the old file.
/// @returns a sentence when it failed, else empty
[[nodiscard]] std::string writeFile(const Document& document, const std::string& path);

/// Hash of what a solve depends on: the values of all lines but the aim. 16 hexadecimal digits.
[[nodiscard]] std::string hash(const Document& document);

}  // namespace yh::sheet
