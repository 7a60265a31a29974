#include "io/lobe/lobe_file.h"

#include "io/text/delimited.h"

namespace bathmos::io {

Lobe read_lobe_csv(const std::filesystem::path& path) {
    const TableShape shape = sniff_table(path);
    Lobe lobe;
    lobe.name = path.stem().string();
    LobeTable table;
    std::size_t angle = 0, lift = 1;
    if (const auto at = shape.find("crank_deg")) {
        angle = *at;
        table.angle_unit = AngleUnit::CrankDegree;
    } else if (const auto cam = shape.find("cam_deg")) {
        angle = *cam;
    }
    double factor = 1;
    lift = angle == 0 ? 1 : 0;
    for (const auto& [name, unit, scale] : {std::tuple{"lift_mm", LiftUnit::Millimetre, 1.0},
                                            {"rise_mm", LiftUnit::Millimetre, 1.0},
                                            {"lift_um", LiftUnit::Millimetre, 1e-3},
                                            {"rise_um", LiftUnit::Millimetre, 1e-3},
                                            {"lift_in", LiftUnit::Inch, 1.0},
                                            {"rise_in", LiftUnit::Inch, 1.0},
                                            {"lift_thou", LiftUnit::Inch, 1e-3}})
        if (const auto at = shape.find(name)) {
            lift = *at;
            table.lift_unit = unit;
            factor = scale;
            break;
        }
    stream_columns(path, shape, {angle, lift}, [&](const std::vector<double>& v, std::size_t) {
        table.angle.push_back(v[0]);
        table.lift.push_back(v[1] * factor);
    });
    lobe.shape = std::move(table);
    return lobe;
}

} // namespace bathmos::io
