#include "sheet/document.h"

#include "sheet/schema.h"

#include <algorithm>

namespace yh::sheet {

Values::Values(std::initializer_list<Entry> entries)
{
    for (const Entry& e : entries)
        emplace(e.key.view, e.value.view);
}

int Document::add(const std::string& kind, Values values)
{
    return addAfter(-1, kind, std::move(values));
}

int Document::addAfter(int after, const std::string& kind, Values values)
{
    Line line{nextId++, kind, std::move(values), {}};
    auto at =
        std::find_if(lines.begin(), lines.end(), [&](const Line& l) { return l.id == after; });
    if (at != lines.end()) {
        ++at;
    } else {
        // Behind the last line whose section does not come later than the new one's.
        const int order = sectionOrder(kind);
        at = lines.end();
        while (at != lines.begin() && sectionOrder(std::prev(at)->kind) > order)
            --at;
    }
    const int id = line.id;
    lines.insert(at, std::move(line));
    return id;
}

void Document::remove(int id)
{
    std::erase_if(lines, [&](const Line& l) { return l.id == id; });
}

void Document::move(int id, int steps)
{
    auto at = std::find_if(lines.begin(), lines.end(), [&](const Line& l) { return l.id == id; });
    if (at == lines.end())
        return;
    const int order = sectionOrder(at->kind);
    for (; steps < 0 && at != lines.begin() && sectionOrder(std::prev(at)->kind) == order;
         ++steps, --at)
        std::iter_swap(at, std::prev(at));
    for (; steps > 0 && std::next(at) != lines.end() && sectionOrder(std::next(at)->kind) == order;
         --steps, ++at)
        std::iter_swap(at, std::next(at));
}

void Document::set(int id, const std::string& key, const std::string& text)
{
    for (Line& l : lines)
        if (l.id == id) {
            if (text.empty())
                l.values.erase(key);
            else
                l.values[key] = text;
        }
}

const Line* Document::find(int id) const
{
    for (const Line& l : lines)
        if (l.id == id)
            return &l;
    return nullptr;
}

const Line* Document::findNamed(const std::string& name) const
{
    for (const Line& l : lines)
        if (!name.empty() && l.name() == name)
            return &l;
    return nullptr;
}

std::vector<const Line*> Document::ofKind(const std::string& kind) const
{
    std::vector<const Line*> list;
    for (const Line& l : lines)
        if (l.kind == kind)
            list.push_back(&l);
    return list;
}

const Line* Document::first(const std::string& kind) const
{
    for (const Line& l : lines)
        if (l.kind == kind)
            return &l;
    return nullptr;
}

std::string Document::freeName(const std::string& stem) const
{
    if (stem == "electrode" || stem == "contact") {
        for (char c = 'A'; c <= 'Z'; ++c)
            if (!findNamed(std::string(1, c)))
                return std::string(1, c);
    }
    if (!findNamed(stem))
        return stem;
    for (int i = 2;; ++i) {
        std::string name = stem + std::to_string(i);
        if (!findNamed(name))
            return name;
    }
}

History::History(Document start)
{
    m_states.push_back(std::move(start));
}

void History::push(Document next)
{
    if (next == current())
        return;
    m_states.resize(m_at + 1);
    m_states.push_back(std::move(next));
    constexpr size_t most = 500;  // a document is a few kilobytes; this is a working day of edits
    if (m_states.size() > most)
        m_states.erase(m_states.begin());
    m_at = m_states.size() - 1;
}

void History::undo()
{
    if (canUndo())
        --m_at;
}

void History::redo()
{
    if (canRedo())
        ++m_at;
}

}  // namespace yh::sheet
