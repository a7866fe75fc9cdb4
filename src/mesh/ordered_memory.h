// Memory that is handed out at rising addresses, so that the order of addresses is that of events.
#pragma once

namespace yh::mesh {

/// While one lives, small objects that its thread makes with `new` get rising addresses.
///
/// The mesher's library numbers the vertices that its parallel volume algorithm starts from by the
/// addresses of their objects. Those depend on where the system puts the heap, which differs from
/// run to run, and with the numbers the whole mesh does. In rising order they are the same each
/// time. Memory goes back to the system in pieces of a megabyte, once all objects of one are gone.
class OrderedMemory
{
public:
    OrderedMemory();
    ~OrderedMemory();
    OrderedMemory(const OrderedMemory&) = delete;
    OrderedMemory& operator=(const OrderedMemory&) = delete;
};

}  // namespace yh::mesh
