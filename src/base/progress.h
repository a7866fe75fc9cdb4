// Progress and cancelling of long work.
#pragma once

#include "base/fault.h"

#include <atomic>
#include <functional>
#include <string>

namespace yh::base {

/// Handed to anything that takes longer than 0.1 s. The work reports where it is; another thread
/// asks it to stop. The default one neither reports nor stops.
class Progress
{
public:
    using Listener = std::function<void(double fraction, const std::string& doing)>;

    Progress() = default;
    explicit Progress(Listener listener) : m_listener(std::move(listener)) {}

    /// @param fraction  share of the whole work done, 0 to 1; negative: not known
    /// @param doing     what is being done, in words
    /// @throws Cancelled
    void report(double fraction, const std::string& doing)
    {
        check();
        if (m_listener)
            m_listener(fraction, doing);
    }
    /// @throws Cancelled if somebody asked for it
    void check() const
    {
        if (m_cancelled.load(std::memory_order_relaxed))
            throw Cancelled();
    }
    void cancel() { m_cancelled.store(true); }
    void reset() { m_cancelled.store(false); }

private:
    Listener m_listener;
    std::atomic<bool> m_cancelled{false};
};

}  // namespace yh::base
