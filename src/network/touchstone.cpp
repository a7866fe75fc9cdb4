// GCC 12 takes its own AVX-512 headers for uninitialised once Eigen's complex products are unrolled
// (its bug 105593).
#pragma GCC diagnostic ignored "-Wuninitialized"
#include "network/touchstone.h"

#include "base/constants.h"
#include "base/fault.h"
#include "fem/dense.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <complex>
#include <limits>
#include <sstream>

namespace yh::network {

using base::Error;
using Complex = std::complex<double>;

namespace {

constexpr double degree = base::pi / 180;

std::string lower(std::string s)
{
    std::transform(s.begin(), s.end(), s.begin(),
                   [](unsigned char c) { return char(std::tolower(c)); });
    return s;
}

/// The order of the entries in the text: by rows, but two ports of version 1 by columns.
std::pair<int, int> placeOf(int k, int n, bool byColumns)
{
    return byColumns ? std::pair{k % n, k / n} : std::pair{k / n, k % n};
}

class Reader
{
public:
    explicit Reader(int ports) : m_ports(ports) {}

    Network read(const std::string& text)
    {
        std::istringstream in(text);
        for (std::string line; std::getline(in, line);) {
            ++m_line;
            line = line.substr(0, line.find('!'));
            const auto first = line.find_first_not_of(" \t\r");
            if (first == std::string::npos)
                continue;
            if (line[first] == '#')
                option(line.substr(first + 1));
            else if (line[first] == '[')
                keyword(line.substr(first));
            else
                numbers(line);
        }
        return network();
    }

private:
    [[noreturn]] void fail(const std::string& text) const
    {
        throw Error(7211, "line " + std::to_string(m_line) + " of the file: " + text);
    }
    void option(const std::string& line)
    {
        std::istringstream in(lower(line));
        for (std::string word; in >> word;) {
            if (word == "hz" || word == "khz" || word == "mhz" || word == "ghz")
                m_unit = word == "hz" ? 1 : word == "khz" ? 1e3 : word == "mhz" ? 1e6 : 1e9;
            else if (word == "ri" || word == "ma" || word == "db")
                m_format = word;
            else if (word == "r")
                in >> m_resistance;
            else if (word != "s")
                fail("it holds " + word + "-parameters; only S-parameters are read");
        }
    }
    void keyword(const std::string& line)
    {
        const auto end = line.find(']');
        if (end == std::string::npos)
            fail("a keyword without its closing bracket");
        const std::string name = lower(line.substr(1, end - 1));
        std::istringstream in(line.substr(end + 1));
        m_collectsReferences = false;
        if (name == "version") {
            m_isSecond = true;
        } else if (name == "number of ports") {
            in >> m_ports;
        } else if (name == "two-port data order") {
            std::string order;
            in >> order;
            m_byColumns = order == "21_12";
        } else if (name == "matrix format") {
            std::string format;
            in >> format;
            if (lower(format) != "full")
                fail("only full matrices are read");
        } else if (name == "reference") {
            m_collectsReferences = true;
            for (double z = 0; in >> z;)
                m_reference.push_back(z);
        } else if (name == "end") {
            m_ended = true;
        }
        // Other keywords carry nothing that S-parameters need.
    }
    void numbers(const std::string& line)
    {
        if (m_ended)
            return;
        std::istringstream in(line);
        std::string word;
        std::vector<double> list;
        while (in >> word) {
            size_t used = 0;
            double v = 0;
            try {
                v = std::stod(word, &used);
            } catch (const std::exception&) {
                used = 0;
            }
            if (used != word.size())
                fail("'" + word + "' is not a number");
            list.push_back(v);
        }
        if (m_collectsReferences) {
            m_reference.insert(m_reference.end(), list.begin(), list.end());
            return;
        }
        // Noise data of two ports follow with frequencies that begin again.
        if (m_ports == 2 && list.size() == 5 && !m_values.empty())
            m_ended = true;
        else
            m_values.insert(m_values.end(), list.begin(), list.end());
    }
    Complex number(double a, double b) const
    {
        return m_format == "ri"   ? Complex(a, b)
               : m_format == "ma" ? std::polar(a, b * degree)
                                  : std::polar(std::pow(10, a / 20), b * degree);
    }
    Network network()
    {
        if (m_ports < 1)
            throw Error(7212,
                        "the number of ports is not known: it is part of the file's ending, such "
                        "as .s2p");
        const size_t n = size_t(m_ports), row = 1 + 2 * n * n;
        if (m_values.empty() || m_values.size() % row != 0)
            throw Error(7213, "the file does not hold whole rows of " + std::to_string(m_ports) +
                                  " ports: " + std::to_string(m_values.size()) +
                                  " numbers are no multiple of " + std::to_string(row));
        Network out;
        out.reference =
            m_reference.size() == n ? m_reference : std::vector<double>(n, m_resistance);
        const bool byColumns = m_ports == 2 && (m_isSecond ? m_byColumns : true);
        for (size_t at = 0; at < m_values.size(); at += row) {
            out.frequency.push_back(m_unit * m_values[at]);
            if (out.frequency.size() > 1 &&
                !(out.frequency.back() > out.frequency[out.frequency.size() - 2]))
                throw Error(7214, "the frequencies of the file do not rise");
            Eigen::MatrixXcd S(m_ports, m_ports);
            for (int k = 0; k < m_ports * m_ports; ++k) {
                const auto [i, j] = placeOf(k, m_ports, byColumns);
                const size_t p = at + 1 + 2 * size_t(k);
                S(i, j) = number(m_values[p], m_values[p + 1]);
            }
            out.S.push_back(std::move(S));
        }
        for (int k = 1; k <= m_ports; ++k)
            out.ports.push_back(std::to_string(k));
        return out;
    }

    int m_ports, m_line = 0;
    double m_unit = 1e9, m_resistance = 50;
    std::string m_format = "ma";
    bool m_isSecond = false, m_byColumns = true, m_collectsReferences = false, m_ended = false;
    std::vector<double> m_values, m_reference;
};

/** The keywords of version 2 before its data. */
std::string keywordsOf(const Network& network)
{
    const int n = int(network.ports.size());
    std::string text;
    char b[80];
    text += "[Number of Ports] " + std::to_string(n) + "\n";
    if (n == 2)
        text += "[Two-Port Data Order] 21_12\n";
    text += "[Number of Frequencies] " + std::to_string(network.frequency.size()) + "\n[Reference]";
    for (const double z : network.reference) {
        std::snprintf(b, sizeof b, " %.9g", z);
        text += b;
    }
    text += "\n[Matrix Format] Full\n[Network Data]\n";
    return text;
}

}  // namespace

Eigen::MatrixXcd Network::at(double f) const
{
    const auto n = Eigen::Index(ports.size());
    const double nan = std::numeric_limits<double>::quiet_NaN();
    constexpr double slack = 1e-9;
    if (frequency.empty() || f < frequency.front() * (1 - slack) ||
        f > frequency.back() * (1 + slack))
        return Eigen::MatrixXcd::Constant(n, n, nan);
    const auto next = std::lower_bound(frequency.begin(), frequency.end(), f);
    const auto b = size_t(std::min(next, frequency.end() - 1) - frequency.begin());
    if (b == 0)
        return S[0];
    const double share =
        std::clamp((f - frequency[b - 1]) / (frequency[b] - frequency[b - 1]), 0.0, 1.0);
    return (1 - share) * S[b - 1] + share * S[b];
}

std::string writeTouchstone(const Network& network, Touchstone version,
                            const std::vector<std::string>& remarks)
{
    const int n = int(network.ports.size());
    const bool second = version == Touchstone::version2;
    std::string text;
    for (const std::string& r : remarks)
        text += "! " + r + "\n";
    for (int k = 0; k < n; ++k)
        text += "! port " + std::to_string(k + 1) + ": " + network.ports[size_t(k)] + "\n";
    char b[80];
    if (second)
        text += "[Version] 2.0\n";
    std::snprintf(b, sizeof b, "# Hz S RI R %.9g\n", network.reference[0]);
    text += b;
    if (second)
        text += keywordsOf(network);
    for (size_t at = 0; at < network.frequency.size(); ++at) {
        std::snprintf(b, sizeof b, "%.12g", network.frequency[at]);
        text += b;
        // Two ports go column by column, more row by row with four pairs a line.
        for (int k = 0; k < n * n; ++k) {
            const auto [i, j] = placeOf(k, n, n == 2);
            const Complex v = network.S[at](i, j);
            std::snprintf(b, sizeof b, " %.12g %.12g", v.real(), v.imag());
            text += b;
            if (n > 2 && (j % 4 == 3 || j + 1 == n) && k + 1 < n * n)
                text += "\n";
        }
        text += "\n";
    }
    if (second)
        text += "[End]\n";
    return text;
}

Network readTouchstone(const std::string& text, int ports)
{
    return Reader(ports).read(text);
}

Eigen::MatrixXcd renormalised(const Eigen::MatrixXcd& S, const Eigen::VectorXd& from,
                              const Eigen::VectorXd& to)
{
    const Eigen::VectorXd G = (to - from).cwiseQuotient(to + from),
                          P = (from + to).cwiseQuotient(2 * from.cwiseProduct(to).cwiseSqrt());
    const Eigen::MatrixXcd one = Eigen::MatrixXcd::Identity(S.rows(), S.cols()),
                           g = G.cast<Complex>().asDiagonal();
    const Eigen::MatrixXcd inner = (S - g) * fem::solved(one - g * S, one);
    return P.cast<Complex>().asDiagonal() * inner * P.cwiseInverse().cast<Complex>().asDiagonal();
}

}  // namespace yh::network
