// What a study finds: figures with their errors, and what it checks by itself. Plain values.
#pragma once

#include <cmath>
#include <limits>
#include <string>
#include <vector>

namespace yh::physics {

struct Finding
{
    std::string name;                     ///< stable name, such as "capacitance A to B"
    std::string label;                    ///< for the screen
    int line = -1;                        ///< identity of the ask's line
    std::string unit;                     ///< coherent SI unit
    std::vector<double> value;            ///< one number, or a matrix row by row
    std::vector<double> error;            ///< of each; not a number where none can be told
    std::vector<std::string> conductors;  ///< names of rows and columns; empty: one number
    double within = 0.0;                  ///< relative accuracy asked for; 0: none
    double reference = 0.0;               ///< what it is relative to the distance from
    double below = std::numeric_limits<double>::quiet_NaN(), above = below;  ///< limits asked for
    bool met = false;        ///< what was asked for, which may be nothing
    bool noLimit = false;    ///< grows without limit as the mesh is refined: no error is stated
    std::string note;        ///< what must be said with the number
    std::string table;       ///< CSV file that holds a curve, relative to the result folder
    std::string directions;  ///< CSV file with it over all directions, relative to the same
    std::string of;          ///< whose directions they are
    std::vector<double> at;  ///< where it is (largest field), x and y in m
    /// Whether an accuracy or a limit is asked for: only then `met` is worth a word.
    [[nodiscard]] bool isAsked() const
    {
        return within > 0 || std::isfinite(below) || std::isfinite(above);
    }
};

struct Check
{
    enum class State { good, note, warning, bad };
    std::string id;
    State state = State::good;
    std::string text;
    int line = -1;           ///< line that it leads to
    std::vector<double> at;  ///< places that it leads to: x, y, x, y, … in m
    std::string proposal{};  ///< a line that does what it says could be done, as one types it
};

}  // namespace yh::physics
