#include "run/result_folder.h"

#include "base/fault.h"
#include "run/report.h"
#include "run/store.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>
#include <algorithm>
#include <cerrno>
#include <charconv>
#include <csignal>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <set>

namespace yh::run {

namespace fs = std::filesystem;
using base::Error;

namespace {

constexpr const char* underWay = ".under-way-";

/// The number that a name ends with, behind what marks folders under way; 0: it is none of them.
int processOf(const std::string& name, const std::string& wanted)
{
    const std::string begin = wanted + underWay;
    int process = 0;
    if (name.compare(0, begin.size(), begin) != 0)
        return 0;
    const auto [end, error] =
        std::from_chars(name.data() + begin.size(), name.data() + name.size(), process);
    return error == std::errc() && end == name.data() + name.size() ? process : 0;
}

/// Removes what runs that ended before their results were complete have left beside a folder.
void clearAway(const fs::path& wanted)
{
    std::error_code e;
    std::vector<fs::path> dead;
    for (const auto& entry : fs::directory_iterator(wanted.parent_path(), e))
        if (const int process = processOf(entry.path().filename(), wanted.filename());
            process > 0 && kill(process, 0) != 0 && errno == ESRCH &&
            entry.symlink_status(e).type() == fs::file_type::directory)
            dead.push_back(entry.path());
    for (const fs::path& p : dead)
        fs::remove_all(p, e);
}

std::vector<std::string> filesIn(const fs::path& folder)
{
    std::vector<std::string> list;
    std::error_code e;
    for (const auto& entry : fs::recursive_directory_iterator(folder, e))
        if (entry.symlink_status(e).type() != fs::file_type::directory)
            list.push_back(entry.path().lexically_relative(folder));
    std::sort(list.begin(), list.end());
    return list;
}

/// What a run that was there before says it wrote.
std::set<std::string> writtenBefore(const fs::path& folder)
{
    std::ifstream in(folder / "run.json", std::ios::binary);
    const std::string text{std::istreambuf_iterator<char>(in), {}};
    base::Faults faults;
    const std::vector<std::string> files = resultFromJson(text, faults).files;
    return {files.begin(), files.end()};
}

/// Whether a folder is one of results, which may go: others are somebody's own, and so is the one
/// that the program was started in.
bool isOfResults(const fs::path& folder)
{
    std::error_code e;
    const fs::path here = fs::current_path(e), within = here.lexically_relative(folder);
    if (e || (!within.empty() && *within.begin() != ".."))
        return false;
    for (const auto& entry : fs::directory_iterator(folder, e))
        if (entry.symlink_status(e).type() == fs::file_type::directory &&
            entry.path().filename() != "fields" && entry.path().filename() != "tables")
            return false;
    return !e;
}

}  // namespace

ResultFolder::ResultFolder(const std::string& folder)
{
    std::error_code e;
    fs::path wanted = fs::absolute(folder, e).lexically_normal();
    if (!wanted.has_filename())
        wanted = wanted.parent_path();
    // Through a link to where the results are, so that they and not the link change places.
    if (const fs::path real = fs::canonical(wanted, e); !e)
        wanted = real;
    m_wanted = wanted;
    fs::create_directories(wanted.parent_path(), e);
    clearAway(wanted);
    m_path = m_wanted + underWay + std::to_string(getpid());
    fs::remove_all(m_path, e);
    m_aside = (!fs::exists(wanted, e) || isOfResults(wanted)) && fs::create_directory(m_path, e);
    if (!m_aside)
        m_path = folder;
    makeFolders(m_path);
}

ResultFolder::~ResultFolder()
{
    std::error_code e;
    if (m_aside)
        fs::remove_all(m_path, e);
}

std::vector<std::string> ResultFolder::files() const
{
    // In somebody's own folder not everything is of this run.
    return m_aside ? filesIn(m_path) : std::vector<std::string>();
}

void ResultFolder::keepOthers() const
{
    const std::set<std::string> ours = writtenBefore(m_wanted);
    for (const std::string& name : filesIn(m_wanted)) {
        const fs::path from = fs::path(m_wanted) / name, to = fs::path(m_path) / name;
        std::error_code e;
        // Folders of results that tell no list hold nothing else where runs write.
        const bool isOurs =
            ours.count(name) > 0 || name == "run.json" ||
            (ours.empty() && (name.rfind("fields/", 0) == 0 || name.rfind("tables/", 0) == 0));
        if (isOurs || name.ends_with(".part") || name == "fields/mesh.vtu" || fs::exists(to, e))
            continue;
        fs::create_directories(to.parent_path(), e);
        // A second name for the file: it is in both places until the old folder goes.
        fs::create_hard_link(from, to, e);
        if (e)
            fs::copy(from, to, fs::copy_options::copy_symlinks, e);
        if (e)
            throw Error(7203, "'" + name + "' in the result folder " + m_wanted +
                                  " is of no run and cannot be kept: " + e.message());
    }
}

void ResultFolder::put()
{
    if (!m_aside)
        return;
    std::error_code e;
    const bool before = fs::exists(m_wanted, e);
    if (before) {
        keepOthers();
        // Who may look in stays as it was.
        if (const fs::file_status was = fs::status(m_wanted, e); !e)
            fs::permissions(m_path, was.permissions(), e);
    }
    if (before
            ? renameat2(AT_FDCWD, m_path.c_str(), AT_FDCWD, m_wanted.c_str(), RENAME_EXCHANGE) == 0
            : std::rename(m_path.c_str(), m_wanted.c_str()) == 0)
        return;
    int why = errno;
    // A file system that cannot exchange two: one after the other.
    if (before && (why == EINVAL || why == ENOSYS || why == ENOTSUP)) {
        const std::string old = m_path + "-old";
        if (std::rename(m_wanted.c_str(), old.c_str()) == 0 &&
            std::rename(m_path.c_str(), m_wanted.c_str()) == 0) {
            fs::remove_all(old, e);
            return;
        }
        why = errno;
        std::rename(old.c_str(), m_wanted.c_str());
    }
    throw Error(7202,
                "the result folder " + m_wanted + " cannot be put in place: " + std::strerror(why));
}

}  // namespace yh::run
