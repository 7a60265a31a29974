// How much memory this process holds, for runs that must not grow.
#pragma once

#include <fstream>
#include <string>

namespace bathmos::test {

/// Resident memory, MB (1024 kB); 0 where the system does not say.
inline double memory_MB() {
    std::ifstream status("/proc/self/status");
    for (std::string line; std::getline(status, line);)
        if (line.starts_with("VmRSS:"))
            return std::stod(line.substr(6)) / 1024;
    return 0;
}

} // namespace bathmos::test
