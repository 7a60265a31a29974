// One fuzz target a reader, BATHMOS_READER (./dev fuzz).
#include "fuzz/readers.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t size) {
    using namespace bathmos::test;
    static const Reader reader = find_reader(BATHMOS_READER);
    read_as(reader, {reinterpret_cast<const char*>(bytes), size});
    return 0;
}
