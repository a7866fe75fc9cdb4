#include "physics/wave/common/scattering.h"

#include "physics/common/constants.h"

#include <cmath>
#include <cstdio>
#include <limits>

namespace yh::physics {

using network::Network;
using network::renormalised;
using network::Touchstone;
using network::writeTouchstone;
using Complex = std::complex<double>;

int Scattering::channelOf(int port, int mode) const
{
    const auto& all = channels();
    for (size_t k = 0; k < all.size(); ++k)
        if (all[k].port == port && all[k].mode == mode)
            return int(k);
    return -1;
}

std::vector<double> Scattering::band() const
{
    std::vector<double> list;
    const WaveProblem& p = problem();
    for (int i = 0; i < p.points; ++i)
        list.push_back(p.points == 1 ? p.low : p.low + (p.high - p.low) * i / (p.points - 1));
    return list;
}

std::string Scattering::channelName(size_t channel) const
{
    const auto& c = channels()[channel];
    const auto& port = problem().ports[size_t(c.port)];
    return port.modes > 1 ? port.name + std::to_string(c.mode + 1) : port.name;
}

Eigen::MatrixXcd Scattering::referred(int level, double f, double reference) const
{
    Eigen::MatrixXcd S = scattering(level, f);
    if (reference <= 0)
        return S;
    if (!S.allFinite()) {
        S.setConstant(std::numeric_limits<double>::quiet_NaN());
        return S;
    }
    Eigen::VectorXd own(S.rows());
    for (Eigen::Index k = 0; k < own.size(); ++k)
        own(k) = impedance(level, size_t(k), f);
    return renormalised(S, own, Eigen::VectorXd::Constant(own.size(), reference));
}

double standingWaveRatio(const Complex& S)
{
    return (1 + std::abs(S)) / (1 - std::abs(S));
}

std::string scatteringCurves(const Scattering& s, const Comparison& with)
{
    const auto n = Eigen::Index(s.channels().size());
    std::string csv = "frequency (Hz)";
    auto heads = [&](const std::string& title) {
        for (Eigen::Index to = 0; to < n; ++to)
            for (Eigen::Index from = 0; from < n; ++from)
                csv +=
                    "," + s.channelName(size_t(from)) + " to " + s.channelName(size_t(to)) + title;
    };
    heads(" (dB)");
    if (with.beside)
        heads(" in file (dB)");
    for (const char* title : {" phase (deg)", " delay (s)", "_re (1)", "_im (1)"})
        heads(title);
    for (Eigen::Index k = 0; k < n; ++k)
        csv += "," + s.channelName(size_t(k)) + " standing wave ratio (1)";
    csv += "\n";
    char text[40];
    auto numbers = [&](const Eigen::MatrixXcd& S, auto part) {
        for (Eigen::Index to = 0; to < n; ++to)
            for (Eigen::Index from = 0; from < n; ++from) {
                const double v = part(S(to, from));
                std::snprintf(text, sizeof text, ",%.9g", v);
                csv += std::isfinite(v) ? text : ",";
            }
    };
    auto decibels = [](const Complex& v) { return 20 * std::log10(std::abs(v)); };
    constexpr double step = 1e-6;
    for (const double f : s.band()) {
        const Eigen::MatrixXcd S = s.referred(s.best(), f, with.reference);
        std::snprintf(text, sizeof text, "%.12g", f);
        csv += text;
        numbers(S, decibels);
        if (with.beside)
            numbers(with.beside->at(f), decibels);
        numbers(S, [](const Complex& v) { return std::arg(v) * 180 / pi; });
        // Minus the slope of the phase by the angular frequency.
        const Eigen::MatrixXcd slope = (s.referred(s.best(), f * (1 + step), with.reference) -
                                        s.referred(s.best(), f * (1 - step), with.reference)) /
                                       (2 * step * f);
        numbers(-(slope.cwiseQuotient(S)) / (2 * pi), [](const Complex& v) { return v.imag(); });
        numbers(S, [](const Complex& v) { return v.real(); });
        numbers(S, [](const Complex& v) { return v.imag(); });
        for (Eigen::Index k = 0; k < n; ++k) {
            // Where all comes back it has no limit.
            constexpr double most = 1e4;
            const double ratio = standingWaveRatio(S(k, k));
            std::snprintf(text, sizeof text, ",%.9g", ratio);
            csv += ratio > 0 && ratio < most ? text : ",";
        }
        csv += "\n";
    }
    return csv;
}

std::vector<std::pair<std::string, std::string>> touchstoneFiles(const Scattering& s,
                                                                 const Comparison& with)
{
    Network out;
    for (size_t k = 0; k < s.channels().size(); ++k)
        out.ports.push_back(s.channelName(k));
    constexpr double nominal = 50;
    out.reference.assign(out.ports.size(), with.reference > 0 ? with.reference : nominal);
    for (const double f : s.band())
        if (Eigen::MatrixXcd S = s.referred(s.best(), f, with.reference); S.allFinite()) {
            out.frequency.push_back(f);
            out.S.push_back(std::move(S));
        }
    const std::string plain = "S-parameters";
    std::vector<std::string> remarks;
    if (with.reference > 0)
        remarks = {"Yellowhorn " YH_VERSION ": S-parameters"};
    else
        remarks = {"Yellowhorn " YH_VERSION
                   ": S-parameters, each channel referred to the "
                   "impedance of its own guide or source",
                   "the resistance of the option line is nominal"};
    std::vector<std::pair<std::string, std::string>> files{
        {plain + ".s" + std::to_string(out.ports.size()) + "p",
         writeTouchstone(out, Touchstone::version1, remarks)}};
    // The second version names the resistance of every port; those of lines hardly vary.
    if (with.reference <= 0 && !out.frequency.empty()) {
        remarks.pop_back();
        for (size_t k = 0; k < out.ports.size(); ++k)
            out.reference[k] = s.impedance(s.best(), k, out.frequency[out.frequency.size() / 2]);
        remarks.push_back("references are those in the middle of the band");
    }
    files.push_back({plain + ".ts", writeTouchstone(out, Touchstone::version2, remarks)});
    return files;
}

}  // namespace yh::physics
