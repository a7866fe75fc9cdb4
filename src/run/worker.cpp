#include "run/worker.h"

#include <nlohmann/json.hpp>

#include <fcntl.h>
#include <poll.h>
#include <spawn.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>
#include <cerrno>
#include <csignal>
#include <cstdio>
#include <iostream>

extern char** environ;

namespace yh::run {

using Json = nlohmann::ordered_json;

Worker::Worker(const std::string& program)
{
    int in[2], out[2];
    // A socket takes writes to a process that is gone without a signal.
    if (socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, in) != 0 || pipe2(out, O_CLOEXEC) != 0)
        return;
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_adddup2(&actions, in[0], 0);
    posix_spawn_file_actions_adddup2(&actions, out[1], 1);
    std::vector<char*> environment;
    for (char** e = environ; *e; ++e)
        if (std::string(*e).rfind("OMP_NUM_THREADS=", 0) != 0)
            environment.push_back(*e);
    std::string threads = "OMP_NUM_THREADS=1", path = program, option = "--points";
    environment.push_back(threads.data());
    environment.push_back(nullptr);
    char* const arguments[] = {path.data(), option.data(), nullptr};
    if (posix_spawn(&m_pid, path.c_str(), &actions, nullptr, arguments, environment.data()) != 0)
        m_pid = -1;
    posix_spawn_file_actions_destroy(&actions);
    close(in[0]);
    close(out[1]);
    m_in = in[1];
    m_out = out[0];
}

void Worker::ask(const sheet::Document& document, const std::vector<Overrides>& points,
                 const std::vector<double>& calibration, const std::string& folder)
{
    if (m_pid <= 0)
        return;
    Json request{{"sheet", sheet::write(document)},
                 {"folder", folder},
                 {"points", points},
                 {"calibration", calibration}};
    for (const sheet::Line& l : document.lines)
        request["ids"].push_back(l.id);
    const std::string text = request.dump(-1, ' ', false, Json::error_handler_t::replace) + "\n";
    // The process reads its whole request before it writes anything.
    for (size_t done = 0; done < text.size();) {
        const ssize_t n = ::send(m_in, text.data() + done, text.size() - done, MSG_NOSIGNAL);
        if (n <= 0)
            break;
        done += size_t(n);
    }
    close(m_in);
    m_in = -1;
}

Worker::~Worker()
{
    if (m_in >= 0)
        close(m_in);
    if (m_out >= 0)
        close(m_out);
    if (m_pid > 0) {
        ::kill(m_pid, SIGKILL);
        waitpid(m_pid, nullptr, 0);
    }
}

std::optional<Report> Worker::next(base::Progress& progress)
{
    while (m_pid > 0) {
        if (const size_t end = m_pending.find('\n'); end != std::string::npos) {
            base::Faults broken;
            Result r = resultFromJson(m_pending.substr(0, end), broken);
            m_pending.erase(0, end + 1);
            if (!broken.empty())
                return std::nullopt;
            return r.report;
        }
        progress.check();
        pollfd p{m_out, POLLIN, 0};
        constexpr int cancelInterval = 50;  // ms
        if (poll(&p, 1, cancelInterval) == 0)
            continue;
        char buffer[65536];
        const ssize_t n = ::read(m_out, buffer, sizeof buffer);
        if (n <= 0)
            return std::nullopt;
        m_pending.append(buffer, size_t(n));
    }
    return std::nullopt;
}

int workerMain()
{
    std::string line;
    if (!std::getline(std::cin, line))
        return int(Outcome::failed);
    try {
        const Json request = Json::parse(line);
        sheet::ReadResult read = sheet::read(request.at("sheet").get<std::string>());
        if (!read.document)
            return int(Outcome::sheetWrong);
        for (size_t i = 0; i < read.document->lines.size(); ++i)
            read.document->lines[i].id = request.at("ids").at(i).get<int>();
        Settings settings;
        settings.checks = false;
        settings.calibration = request.at("calibration").get<std::vector<double>>();
        settings.folder = request.at("folder").get<std::string>();
        base::Progress progress;
        for (const Json& point : request.at("points")) {
            Result r;
            r.report = solveState(*read.document, point.get<Overrides>(), settings, progress);
            std::string text = toJson(r);
            for (char& c : text)
                c = c == '\n' ? ' ' : c;
            std::cout << text << std::endl;
        }
    } catch (const std::exception& e) {
        std::fprintf(stderr, "%s\n", e.what());
        return int(Outcome::failed);
    }
    return 0;
}

}  // namespace yh::run
