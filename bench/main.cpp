// dreskel-bench IMAGE FOLDER [GIB]: prints the measures of docs/measures.md. FOLDER takes a sparse image and
// jobs.
#include <cstdio>
#include <cstdlib>

#include "bench/bench.h"

int main(int argc, char** argv) {
    if (argc < 3) {
        std::fprintf(stderr, "usage: dreskel-bench IMAGE FOLDER [GIB]\n");
        return 2;
    }
    using namespace dreskel::bench;
    passRatio(argv[1]);
    copyRatio(argv[1], argv[2]);
    wholeScan(argv[1], argv[2]);
    memory(argv[2], argc > 3 ? static_cast<unsigned>(std::atoi(argv[3])) : 64);
    return 0;
}
