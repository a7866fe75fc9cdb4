// Rational functions through samples of a response, and their poles.
#pragma once

#include <complex>
#include <vector>

namespace yh::fem {

/// A pole p of several functions r_k / (x - p) + rest at once.
struct Pole
{
    std::complex<double> at;
    std::vector<std::complex<double>> residue;  ///< one a function
};

/// Poles of the rational functions with common poles that pass near all samples. Weights are those
/// of the barycentric form; nodes are added where it is farthest off.
/// Source: Nakatsukasa, Sete and Trefethen, SIAM J. Sci. Comput. 40 (2018) A1494 (from memory).
/// @param x      rising
/// @param value  samples; shape (functions, samples)
/// @param close  how near, relative to the largest sample
[[nodiscard]] std::vector<Pole> polesOf(const std::vector<double>& x,
                                        const std::vector<std::vector<std::complex<double>>>& value,
                                        double close);

}  // namespace yh::fem
