// Reads what was typed behind the words of a line: by the markers of its slots, and by what fits.
#pragma once

#include "base/expression.h"
#include "sheet/document.h"
#include "sheet/schema.h"
#include "sheet/sentence.h"

#include <string>
#include <vector>

namespace yh::sheet {

class LineReader
{
public:
    LineReader(const Kind& kind, std::string rest, const Document& document);
    /// Parts may stand in any order, and without their markers where only one slot takes them; what
    /// has no place is a fault, and is in no value.
    [[nodiscard]] Composed read();

private:
    struct Found
    {
        size_t at, end;
        const Slot* slot;
    };
    /// Where `slot`'s marker stands at or behind `from`; npos: nowhere.
    [[nodiscard]] size_t markerOf(const Slot& slot, size_t from) const;
    /// Where words stand by themselves in front of what `slot` can take.
    [[nodiscard]] size_t wordsAt(const Slot& slot, const std::string& words, size_t from) const;
    void findMarkers();
    /// What stands between two places, without the suffix of its slot.
    [[nodiscard]] std::string cut(size_t from, size_t to, const Slot* slot) const;
    void takeValues();
    /// What stands in front of the first marker: the name, then the slots without a marker.
    void takeHead();
    /// What stands at no marker goes where it fits.
    void placeLoose();
    bool placeOne(std::string& text);
    /// 8 A where a voltage is asked for is a current.
    void chooseAlternatives();
    /// As much of a value as its slot reads; the rest is loose.
    [[nodiscard]] std::string fitting(const Slot& slot, const std::string& value);
    /// Whether a text has a value that no alternative of a slot takes either.
    [[nodiscard]] bool hasValue(const Slot& slot, const std::string& text) const;
    /// Whether a text can be a value of a slot by how it is written.
    [[nodiscard]] bool reads(const Slot& slot, const std::string& text) const;
    /// Whether it is one by unit, name or choice.
    [[nodiscard]] bool suits(const Slot& slot, const std::string& text) const;
    /// Without words that only join others.
    [[nodiscard]] std::string withoutFillers(const std::string& text) const;
    [[nodiscard]] bool isOpen(const Slot& slot) const;

    const Kind& m_kind;
    std::string m_rest;
    const Document& m_document;
    base::Scope m_scope;
    std::vector<Found> m_found;
    std::vector<std::string> m_loose;
    Composed m_line;
    bool m_isDiameter = false;  ///< the radius was told as one
};

/// Without space before and behind.
[[nodiscard]] std::string trimmed(const std::string& s);

/// The alternative of a slot whose unit a text has, where the slot's own is another; null: none.
[[nodiscard]] const Slot* alternativeFor(const base::Scope& scope, const Kind& kind,
                                         const Slot& slot, const std::string& text);

}  // namespace yh::sheet
