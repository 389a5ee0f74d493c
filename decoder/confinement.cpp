#include "decoder/confinement.h"

#include <errno.h>
#include <fcntl.h>
#include <seccomp.h>
#include <signal.h>
#include <sys/mman.h>
#include <sys/prctl.h>
#include <sys/resource.h>

#include <memory>

#include "base/limits.h"

namespace dreskel {
namespace {

#if defined(__SANITIZE_ADDRESS__)
// The sanitizers need address space, descriptors to look at memory with, and calls of their own.
constexpr bool kSanitized = true;
#else
constexpr bool kSanitized = false;
#endif

void limit(int resource, std::uint64_t most) {
    const rlimit bound{most, most};
    ::setrlimit(static_cast<__rlimit_resource>(resource), &bound);
}

// What decoding takes: bytes of open descriptors, memory, threads, clocks.
constexpr int kAllowed[] = {SCMP_SYS(read),
                            SCMP_SYS(pread64),
                            SCMP_SYS(readv),
                            SCMP_SYS(preadv),
                            SCMP_SYS(write),
                            SCMP_SYS(writev),
                            SCMP_SYS(lseek),
                            SCMP_SYS(close),
                            SCMP_SYS(fstat),
                            SCMP_SYS(sendmsg),
                            SCMP_SYS(recvmsg),
                            SCMP_SYS(sendto),
                            SCMP_SYS(recvfrom),
                            SCMP_SYS(poll),
                            SCMP_SYS(ppoll),
                            SCMP_SYS(mmap),
                            SCMP_SYS(munmap),
                            SCMP_SYS(mprotect),
                            SCMP_SYS(mremap),
                            SCMP_SYS(madvise),
                            SCMP_SYS(brk),
                            SCMP_SYS(futex),
                            SCMP_SYS(set_robust_list),
                            SCMP_SYS(get_robust_list),
                            SCMP_SYS(rseq),
                            SCMP_SYS(rt_sigaction),
                            SCMP_SYS(rt_sigprocmask),
                            SCMP_SYS(rt_sigreturn),
                            SCMP_SYS(sigaltstack),
                            SCMP_SYS(tgkill),
                            SCMP_SYS(getpid),
                            SCMP_SYS(gettid),
                            SCMP_SYS(sched_yield),
                            SCMP_SYS(sched_getaffinity),
                            SCMP_SYS(sched_getparam),
                            SCMP_SYS(sched_getscheduler),
                            SCMP_SYS(clock_gettime),
                            SCMP_SYS(clock_getres),
                            SCMP_SYS(clock_nanosleep),
                            SCMP_SYS(nanosleep),
                            SCMP_SYS(gettimeofday),
                            SCMP_SYS(getrandom),
                            SCMP_SYS(getrusage),
                            SCMP_SYS(restart_syscall),
                            SCMP_SYS(exit),
                            SCMP_SYS(exit_group),
                            SCMP_SYS(membarrier),
                            SCMP_SYS(uname),
                            SCMP_SYS(sysinfo)};

bool filter() {
    const std::unique_ptr<void, void (*)(scmp_filter_ctx)> rules(seccomp_init(SCMP_ACT_ERRNO(EPERM)),
                                                                 seccomp_release);
    if (!rules) return false;
    for (const int call : kAllowed) {
        if (seccomp_rule_add(rules.get(), SCMP_ACT_ALLOW, call, 0) != 0) return false;
    }
    // Threads, but no processes. What clone3 asks for lies in memory, where a filter cannot look: without it
    // the C library takes clone.
    if (seccomp_rule_add(rules.get(), SCMP_ACT_ERRNO(ENOSYS), SCMP_SYS(clone3), 0) != 0) return false;
    constexpr scmp_datum_t kThread = 0x00010000;  // CLONE_THREAD
    if (seccomp_rule_add(rules.get(), SCMP_ACT_ALLOW, SCMP_SYS(clone), 1,
                         SCMP_A0(SCMP_CMP_MASKED_EQ, kThread, kThread)) != 0)
        return false;
    return seccomp_load(rules.get()) == 0;
}

}  // namespace

bool confine() {
    ::prctl(PR_SET_PDEATHSIG, SIGKILL);
    ::prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0);
    limit(RLIMIT_FSIZE, 0);
    limit(RLIMIT_CORE, 0);
    if (kSanitized) return true;
    limit(RLIMIT_AS, limits::kDecoderMemory);
    limit(RLIMIT_NOFILE, 6);
    return filter();
}

}  // namespace dreskel
