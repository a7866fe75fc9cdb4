// Numbers too small for the usual form.
#pragma once

#ifdef __SSE__
#include <xmmintrin.h>
#endif

namespace yh::grid {

/// Before a wave arrives, and after it has died away, fields are smaller than floats can be with
/// all their digits, which takes the processor many times as long: in its lifetime such numbers are
/// zero. To be made in every thread.
class WithoutTinyNumbers
{
public:
#ifdef __SSE__
    WithoutTinyNumbers() : m_before(_mm_getcsr())
    {
        constexpr unsigned flushToZero = 0x8000, denormalsAreZero = 0x0040;
        _mm_setcsr(m_before | flushToZero | denormalsAreZero);
    }
    ~WithoutTinyNumbers()
    {
        _mm_setcsr(m_before);
    }
    WithoutTinyNumbers(const WithoutTinyNumbers&) = delete;
    WithoutTinyNumbers& operator=(const WithoutTinyNumbers&) = delete;

private:
    unsigned m_before;
#endif
};

}  // namespace yh::grid
