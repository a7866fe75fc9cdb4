#include "mesh/ordered_memory.h"

#include <sys/mman.h>

#include <atomic>
#include <cstddef>
#include <cstdlib>
#include <new>

namespace yh::mesh {

namespace {

constexpr std::size_t pieceSize = std::size_t(1) << 20, pieceCount = std::size_t(1) << 16,
                      total = pieceSize * pieceCount;  // addresses only: 64 GiB
/// Larger ones are no vertices, and may be many megabytes.
constexpr std::size_t largest = 4096;

thread_local bool isOrdered = false;
char* base = nullptr;                  ///< of the range of addresses; null: there is none
std::size_t top = 0;                   ///< where the next object goes, from base
std::atomic<int> objects[pieceCount];  ///< that live in each piece
std::atomic<long> objectCount = 0;

/// Lets the system have a piece back whose objects are all gone.
void release(std::size_t piece)
{
    ::madvise(base + piece * pieceSize, pieceSize, MADV_DONTNEED);
}

void* place(std::size_t size)
{
    const std::size_t rounded =
        (size + alignof(std::max_align_t) - 1) & ~(alignof(std::max_align_t) - 1);
    // An object lies in one piece.
    if (top % pieceSize + rounded > pieceSize)
        top = (top / pieceSize + 1) * pieceSize;
    if (top + rounded > total)
        return nullptr;
    void* p = base + top;
    objects[top / pieceSize].fetch_add(1, std::memory_order_relaxed);
    objectCount.fetch_add(1, std::memory_order_relaxed);
    top += rounded;
    return p;
}

/// @returns whether the object was one of these
bool remove(void* p)
{
    const char* at = static_cast<char*>(p);
    if (!base || at < base || at >= base + total)
        return false;
    const auto piece = std::size_t(at - base) / pieceSize;
    objectCount.fetch_sub(1, std::memory_order_relaxed);
    if (objects[piece].fetch_sub(1, std::memory_order_acq_rel) == 1 && piece != top / pieceSize)
        release(piece);
    return true;
}

void* allocate(std::size_t size)
{
    if (isOrdered && size <= largest && size > 0)
        if (void* p = place(size))
            return p;
    for (;;) {
        if (void* p = std::malloc(size > 0 ? size : 1))
            return p;
        const std::new_handler handler = std::get_new_handler();
        if (!handler)
            throw std::bad_alloc();
        handler();
    }
}

}  // namespace

OrderedMemory::OrderedMemory()
{
    if (!base) {
        void* p = ::mmap(nullptr, total, PROT_READ | PROT_WRITE,
                         MAP_PRIVATE | MAP_ANONYMOUS | MAP_NORESERVE, -1, 0);
        // Without the addresses meshes are right, but not the same each time.
        base = p == MAP_FAILED ? nullptr : static_cast<char*>(p);
    }
    if (objectCount.load() == 0)
        top = 0;
    isOrdered = base != nullptr;
}

OrderedMemory::~OrderedMemory()
{
    isOrdered = false;
}

}  // namespace yh::mesh

// Sanitizers bring their own.
#ifndef __SANITIZE_ADDRESS__
void* operator new(std::size_t size)
{
    return yh::mesh::allocate(size);
}
void operator delete(void* p) noexcept
{
    if (!yh::mesh::remove(p))
        std::free(p);
}
void operator delete(void* p, std::size_t) noexcept
{
    operator delete(p);
}
#endif
