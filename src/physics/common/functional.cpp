#include "physics/common/functional.h"

namespace yh::physics {

std::vector<char> flags(const std::vector<int>& list, size_t size)
{
    std::vector<char> f(size, 0);
    for (const int i : list)
        f[size_t(i)] = 1;
    return f;
}

fem::CoupledSolver::Values derivativeOf(const LocalFunctional& functional, const mesh::Mesh& mesh,
                                        int fields, int order)
{
    const fem::H1Space space(mesh, order);
    fem::CoupledSolver::Values f(size_t(fields), std::vector<double>(size_t(space.count()), 0.0));
    int number[fem::mostLocal];
    double sign[fem::mostLocal];
    fem::Basis b;
    space.local(functional.hit.cell, number, sign);
    fem::basis(mesh.dimension, order, functional.hit.xi, b);
    Point row[3];
    mesh::Geometry(mesh, functional.hit.cell).inverse(functional.hit.xi, row);
    const bool gradient = norm(functional.direction) > 0 || functional.share != 0;
    for (int i = 0; i < space.localCount(order); ++i) {
        double w = b.value[i];
        if (gradient) {
            w = functional.share * b.value[i];
            for (int c = 0; c < mesh.dimension; ++c)
                w -= b.d[c][i] * dot(row[c], functional.direction);
        }
        f[size_t(functional.component)][size_t(number[i])] += sign[i] * w;
    }
    return f;
}

}  // namespace yh::physics
