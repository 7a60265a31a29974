// Every reader of the program over bytes that may be anything: it gives what it read, or says what is wrong
// with it (InputError). Anything else, a crash, a hang or another exception, is a fault. The fuzz targets and
// a test share it.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace bathmos::test {

enum class Reader {
    Train,
    Lobe,
    RigText,
    RigHdf5,
    Pull,
    Parts,
    Record,
    TraceCsv,
    Project,
    Sheet,
    Tester,
    Device,
    Campaign,
    Programme,
    RigStream,
    Known,
    Count
};
/// Its name: of the target, and of the folder with its cases.
std::string_view name_of(Reader reader);
/// By that name; Count where there is none.
Reader find_reader(std::string_view name);

/// Reads the bytes and uses what came of them as far as a result is made. Throws what is no InputError.
void read_as(Reader reader, std::string_view bytes);

} // namespace bathmos::test
