// A folder of results that takes the place of the one before as a whole.
//
// Results are written to a folder beside it, whose name ends with the number of the process. Once
// they are complete the two change places, and the old ones go. Whatever ends the process before
// that, the old results stay as they were; what it had begun is removed by the next run there.
// A folder that holds other folders than those of results is somebody's own, and so is the one that
// the program was started in: results go into these one by one.
#pragma once

#include <string>
#include <vector>

namespace yh::run {

class ResultFolder
{
public:
    /// @param folder  where results are to be found in the end
    /// @throws Error when none can be made there
    explicit ResultFolder(const std::string& folder);
    ~ResultFolder();
    ResultFolder(const ResultFolder&) = delete;
    ResultFolder& operator=(const ResultFolder&) = delete;

    /// Where to write until then, with folders for fields and tables.
    [[nodiscard]] const std::string& path() const { return m_path; }
    /// Files that were written so far, relative to it, in order; empty where they go in one by one.
    [[nodiscard]] std::vector<std::string> files() const;
    /// Changes places. Files in the old folder that no run wrote are somebody's own and stay.
    /// @throws Error when the file system refuses
    void put();

private:
    void keepOthers() const;

    std::string m_wanted, m_path;
    bool m_aside = true;  ///< else there is no place beside it, and results go in one by one
};

}  // namespace yh::run
