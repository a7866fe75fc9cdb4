// The weak form of elastic and piezoelectric bodies.
#include "physics/elastic/elastic.h"

namespace yh::physics::elastic_form {

namespace {

constexpr int variables = 9;  // of each of u_x, u_y, V: the value and both derivatives
constexpr int ux = 0, uy = 3, V = 6;
using Strains = Eigen::Matrix<double, 4, variables>;
using Gradients = Eigen::Matrix<double, 2, variables>;

/// S = B (u_x, …): xx, yy, zz, xy.
Strains strains(bool isAxisymmetric, const Point& p)
{
    Strains B = Strains::Zero();
    B(0, ux + 1) = 1;
    B(1, uy + 2) = 1;
    if (isAxisymmetric)
        B(2, ux) = 1 / p.x;
    B(3, ux + 2) = 1;
    B(3, uy + 1) = 1;
    return B;
}
Gradients gradients()
{
    Gradients G = Gradients::Zero();
    G(0, V + 1) = G(1, V + 2) = 1;
    return G;
}

}  // namespace

fem::BlockForm of(const ElasticProblem& problem, Part part)
{
    return [&problem, part](int piece, const Point& p, double* out) {
        const ElasticMedium& m = problem.media[size_t(piece)];
        if (part == Part::mass) {
            out[ux * variables + ux] = out[uy * variables + uy] = m.density;
            return m.moves && m.density > 0;
        }
        const Strains B = strains(problem.isAxisymmetric(), p);
        const Gradients G = gradients();
        Eigen::Map<Eigen::Matrix<double, variables, variables, Eigen::RowMajor>> C(out);
        if (part == Part::energy) {
            // Of the field and the strain each by itself: positive, as a measure of error.
            C = B.transpose() * m.c.real() * B + G.transpose() * m.eps.real() * G;
            return true;
        }
        const bool loss = part == Part::loss;
        auto take = [loss](const auto& A) { return loss ? A.imag().eval() : A.real().eval(); };
        const Eigen::Matrix<double, variables, variables> mixed =
            B.transpose() * take(m.e).transpose() * G;
        C = B.transpose() * take(m.c) * B + mixed + mixed.transpose() -
            G.transpose() * take(m.eps) * G;
        return !loss || m.isLossy();
    };
}

}  // namespace yh::physics::elastic_form
