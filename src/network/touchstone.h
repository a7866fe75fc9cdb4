// Networks over frequency in Touchstone files, versions 1.1 and 2.0 (EIA/IBIS Open Forum, 2002 and
// 2009; both from memory).
#pragma once

#include <Eigen/Core>
#include <string>
#include <vector>

namespace yh::network {

/// S-parameters of power waves over frequency.
struct Network
{
    std::vector<std::string> ports;
    std::vector<double> frequency;    ///< Hz
    std::vector<Eigen::MatrixXcd> S;  ///< by frequency, to row from column
    std::vector<double> reference;    ///< ohm, by port

    /// S at a frequency between those known, part by part on straight lines; nothing outside.
    [[nodiscard]] Eigen::MatrixXcd at(double frequency) const;
};

enum class Touchstone { version1, version2 };
/// @param remarks  lines of comment
[[nodiscard]] std::string writeTouchstone(const Network& network, Touchstone version,
                                          const std::vector<std::string>& remarks);
/// Reads S-parameters in any of the units and number formats of both versions.
/// @param ports  how many there are, for version 1; 0: not known
/// @throws Error in words
[[nodiscard]] Network readTouchstone(const std::string& text, int ports);

/// The same network seen from other resistances: S' = P (S - G)(1 - G S)^-1 P^-1, with
/// G = (z' - z) / (z' + z) and P = (z + z') / (2 sqrt(z z')).
/// Source: Kurokawa, IEEE Trans. Microwave Theory Tech. 13 (1965) 194 (from memory), for real z.
/// @param from, to  ohm, by port
[[nodiscard]] Eigen::MatrixXcd renormalised(const Eigen::MatrixXcd& S, const Eigen::VectorXd& from,
                                            const Eigen::VectorXd& to);

}  // namespace yh::network
