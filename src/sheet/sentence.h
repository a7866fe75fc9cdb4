// Lines as short sentences: the pieces that the screen shows, and the compose line that reads
// the same words back.
#pragma once

#include "sheet/document.h"
#include "sheet/schema.h"

#include <string>
#include <vector>

namespace yh::sheet {

struct Piece
{
    enum class Kind { word, name, chip, pill, missing };
    Kind kind = Kind::word;
    std::string text;
    std::string field;  ///< key of the field that a name, chip, pill or missing piece stands for
};

/// The sentence of a line, piece by piece. Fields without a value are left out unless they are
/// required (piece `missing`) or marked `always`.
[[nodiscard]] std::vector<Piece> sentence(const Line& line);
/// The sentence as plain text.
[[nodiscard]] std::string plainText(const Line& line);

struct Composed
{
    bool ok = false;
    std::string kind;
    std::map<std::string, std::string> values;
    std::string fault;  ///< why it was not understood
};
/// Reads a typed line: `gap = 120 um`, `electrode 1 V on comb odd`, `comb rectangle 2 mm x 1 mm`.
/// Words between the values may be left out where the values are in order.
[[nodiscard]] Composed compose(const std::string& text, const Document& document);

/// What can be typed next: whole texts that begin with `text`, best first, each with its help.
struct Completion
{
    std::string text, help;
};
[[nodiscard]] std::vector<Completion> completions(const std::string& text,
                                                  const Document& document);

/// Replaces a name as a whole word in every formula, place and reference.
void rename(Document& document, const std::string& from, const std::string& to);

}  // namespace yh::sheet
