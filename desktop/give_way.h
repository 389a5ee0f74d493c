// For threads whose work can wait a moment: on a machine with few cores what the technician does comes first.
#pragma once

#include <sys/resource.h>

namespace dreskel {

// Of the calling thread, and of the processes that it starts.
inline void giveWay() {
    constexpr int kNice = 5;
    // Linux keeps it for each thread; 0 is the calling one. Where it is refused, nothing is lost but a little
    // haste.
    (void)::setpriority(PRIO_PROCESS, 0, kNice);
}

}  // namespace dreskel
