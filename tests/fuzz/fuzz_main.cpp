// One target under libFuzzer: the environment names it (DRESKEL_FUZZ_TARGET), scripts/fuzz runs them all.
#include <cstdio>
#include <cstdlib>

#include "tests/fuzz/targets.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const auto* target = [] {
        const char* name = std::getenv("DRESKEL_FUZZ_TARGET");
        for (const auto& one : dreskel::fuzz::targets()) {
            if (name != nullptr && one.name == name) return &one;
        }
        for (const auto& one : dreskel::fuzz::targets()) std::printf("%s\n", one.name.c_str());
        // Not by exit(), which the fuzzer takes for a find.
        std::fflush(stdout);
        std::_Exit(name == nullptr ? 0 : 2);
    }();
    target->run({data, size});
    return 0;
}
