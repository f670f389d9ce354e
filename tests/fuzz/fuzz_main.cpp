#include "fuzz/readers.h"

#include <cstdint>
#include <cstdio>
#include <cstdlib>

/// Coverage-guided fuzzing of one reader, named in USTOR_FUZZ_READER (`./run fuzz READER SECONDS`).
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const ustor::testing::FuzzedReader* const reader = [] {
        const char* const wanted = std::getenv("USTOR_FUZZ_READER");
        for (const auto& each : ustor::testing::fuzzedReaders())
            if (wanted && each.name == wanted) return &each;
        std::fprintf(stderr, "USTOR_FUZZ_READER must name one of:");
        for (const auto& each : ustor::testing::fuzzedReaders())
            std::fprintf(stderr, " %s", each.name.c_str());
        std::fprintf(stderr, "\n");
        std::exit(2);
    }();
    reader->feed({reinterpret_cast<const char*>(data), size});
    return 0;
}
