// Faults: what a user or a file can cause, told with a number, a place and a sentence.
#pragma once

#include <stdexcept>
#include <string>
#include <vector>

namespace yh::base {

/// Where in the sheet something is: a line by its identity, a field of it by its key, and the
/// character in that field's text.
struct Place
{
    int line = -1;      ///< identity of the sheet line, -1: the sheet as a whole
    std::string field;  ///< key of the field, empty: the line as a whole
    int offset = -1;    ///< character in the field's text, -1: the field as a whole
    bool operator==(const Place&) const = default;
};

/// One thing that is wrong. The number never changes between versions; the sentence says what
/// was found, what was expected and what to do.
struct Fault
{
    int number = 0;
    Place place;
    std::string text;
    bool incomplete = false;  ///< true: something is still missing; false: something is wrong
    bool operator==(const Fault&) const = default;
};

using Faults = std::vector<Fault>;

/// What a computation can run into (singular system, failed mesh, out of memory). Thrown by the
/// core, caught once in `run`.
class Error : public std::runtime_error
{
public:
    /// @param number  stable number of the message
    /// @param text    what was found, what was expected, what to do
    /// @param place   the line of the sheet that it belongs to, if one does
    Error(int number, const std::string& text, Place place = {});
    [[nodiscard]] Fault fault() const { return {m_number, m_place, what(), false}; }

private:
    int m_number;
    Place m_place;
};

/// Thrown where a cancel request is noticed.
class Cancelled : public std::runtime_error
{
public:
    Cancelled() : std::runtime_error("cancelled") {}
};

}  // namespace yh::base

/// States what only we can cause; on in Debug and in the sanitizer build.
#ifdef YH_CHECKED
#include <cstdio>
#include <cstdlib>
#define YH_ASSERT(condition, message)                                                          \
    do {                                                                                       \
        if (!(condition)) {                                                                    \
            std::fprintf(stderr, "%s:%d: %s (%s)\n", __FILE__, __LINE__, message, #condition); \
            std::abort();                                                                      \
        }                                                                                      \
    } while (false)
#else
#define YH_ASSERT(condition, message) static_cast<void>(0)
#endif
