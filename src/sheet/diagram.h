// A sheet that is about parts and how they are joined, as a drawing without places: the window lays
// it out.
#pragma once

#include <string>
#include <vector>

namespace yh::sheet {

struct Diagram
{
    struct Box
    {
        std::string name, text;  ///< text: what it is
        int line = -1;           ///< of the sheet
        int ports = 0;
        bool isTerminal = false;  ///< where something goes in or out
    };
    struct Link
    {
        int box[2] = {-1, -1};
        int port[2] = {0, 0};  ///< from 0
    };
    std::vector<Box> boxes;
    std::vector<Link> links;
};

}  // namespace yh::sheet
