#pragma once

#include <omp.h>

namespace yh::fem {

/// For small factors the dense kernels lose more by sharing their work than they gain: as long as
/// this lives they have one thread.
class KernelThreads
{
public:
    explicit KernelThreads(double flops) : m_before(omp_get_max_threads())
    {
        constexpr double worthSharing = 5e9;
        if (flops < worthSharing)
            omp_set_num_threads(1);
    }
    ~KernelThreads() { omp_set_num_threads(m_before); }
    KernelThreads(const KernelThreads&) = delete;
    KernelThreads& operator=(const KernelThreads&) = delete;

private:
    int m_before;
};

}  // namespace yh::fem
