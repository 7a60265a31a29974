#include "io/lobe/lobe_file.h"

#include "core/problem/input_error.h"
#include "io/lobe/gauge_file.h"
#include "io/text/encoding.h"

#include <fmt/format.h>

namespace bathmos::io {

LobeFile read_lobe_csv(const std::filesystem::path& path, std::size_t which, const std::stop_token& stop) {
    const TableShape shape = sniff_table(path);
    const GaugeMapping mapping = guess_mapping(path, shape, stop);
    const std::vector<GaugedLobe> lobes = read_gauge(path, shape, mapping, stop);
    if (which >= lobes.size())
        throw InputError({shown_path(path), "", fmt::format("has {} lobes", lobes.size()),
                          fmt::format("give a number from 1 to {}", lobes.size())});
    CombinedPasses combined =
        combine(lobes[which].passes, mapping.angle_unit, lift_unit(mapping.unit), mapping.mirrored);
    LobeFile out;
    out.lobe.name = lobes[which].name;
    out.lobe.shape = std::move(combined.table);
    out.repeatability = combined.repeatability;
    out.lobes = lobes.size();
    return out;
}

} // namespace bathmos::io
