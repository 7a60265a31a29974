#include "core/problem/input_error.h"
#include "io/file/h5_reader.h"
#include "io/rig/rig_file.h"
#include "io/text/encoding.h"

#include <cmath>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

double to_mm(const std::string& unit, const InputProblem& where) {
    if (unit.empty() || unit == "mm")
        return 1;
    if (unit == "in")
        return 25.4;
    if (unit == "um")
        return 1e-3;
    if (unit == "m")
        return 1e3;
    throw InputError({where.source, where.location, fmt::format("units \"{}\" are not known", unit),
                      "use mm, um, m or in"});
}

// One group's set of readings, looked at before anything is read.
struct Speed {
    std::string name;
    H5Extent extent;
    std::vector<double> rpm;   ///< one, or one a cycle
    std::vector<double> oil_C; ///< the same; empty: not said
    float to_mm = 1;
};

Speed look_at(hid_t file, const std::string& name, const std::string& source) {
    const InputProblem where{source, "/" + name, "", ""};
    const auto refuse = [&](std::string what, std::string mend) {
        throw InputError({where.source, where.location, std::move(what), std::move(mend)});
    };
    const H5Handle group(H5Gopen2(file, name.c_str(), H5P_DEFAULT), H5Gclose);
    if (!group.valid())
        refuse("is no group", "one group a speed, with lift_mm of cycles x samples");
    if (H5Lexists(group.get(), "lift_mm", H5P_DEFAULT) <= 0)
        refuse("holds no data set lift_mm", "one group a speed, with lift_mm of cycles x samples");
    const H5Handle data(H5Dopen2(group.get(), "lift_mm", H5P_DEFAULT), H5Dclose);
    if (!data.valid())
        refuse("lift_mm is no data set", "one group a speed, with lift_mm of cycles x samples");
    Speed out{name, {}, {}, {}, 1};
    try {
        out.extent = extent_of(data.get());
    } catch (const std::runtime_error& error) {
        refuse(fmt::format("lift_mm does not have the shape cycles x samples: {}", error.what()),
               "store at least one cycle of 90 or more samples");
    }
    if (out.extent.columns < 90)
        refuse(fmt::format("lift_mm does not have the shape cycles x samples: {} samples a cycle",
                           out.extent.columns),
               "store at least one cycle of 90 or more samples");
    try {
        const auto said = [&](const char* attribute, bool needed) {
            std::vector<double> numbers;
            for (const hid_t object : {group.get(), data.get()})
                if (numbers.empty())
                    numbers = number_attribute(object, attribute, out.extent.rows);
            if (numbers.empty() ? needed : numbers.size() != 1 && numbers.size() != out.extent.rows)
                throw std::runtime_error(
                    fmt::format("{}: {} numbers for {} cycles", attribute, numbers.size(), out.extent.rows));
            return numbers;
        };
        out.rpm = said("rpm", true);
        out.oil_C = said("oil_C", false);
        std::string unit = text_attribute(data.get(), "units");
        if (unit.empty())
            unit = text_attribute(group.get(), "units");
        out.to_mm = static_cast<float>(to_mm(unit, where));
    } catch (const std::runtime_error& error) {
        if (dynamic_cast<const InputError*>(&error))
            throw;
        refuse(fmt::format("its attributes do not fit: {}", error.what()),
               "state rpm above 0 as one number or as one a cycle, and units as one text");
    }
    for (const double rpm : out.rpm)
        if (!(rpm > 0) || !std::isfinite(rpm))
            refuse(fmt::format("rpm is {:g}", rpm), "state the speed of the group, above 0");
    return out;
}

void read_speed(hid_t file, const Speed& speed, RigTrace& trace) {
    const H5Handle data(H5Dopen2(file, (speed.name + "/lift_mm").c_str(), H5P_DEFAULT), H5Dclose);
    const std::size_t first = trace.lift_mm.size(), samples = speed.extent.columns;
    trace.lift_mm.resize(first + speed.extent.numbers());
    if (H5Dread(data.get(), H5T_NATIVE_FLOAT, H5S_ALL, H5S_ALL, H5P_DEFAULT, trace.lift_mm.data() + first) <
        0)
        throw InputError({trace.source, "/" + speed.name, "lift_mm cannot be read",
                          "the file is damaged, or its compression is not known here"});
    for (std::size_t i = first; i < trace.lift_mm.size(); ++i) {
        trace.lift_mm[i] *= speed.to_mm;
        trace.crank_deg.push_back(720.0f * static_cast<float>((i - first) % samples) /
                                  static_cast<float>(samples));
    }
    const auto of_cycle = [](const std::vector<double>& said, std::size_t c) {
        return said[said.size() > 1 ? c : 0];
    };
    for (std::size_t c = 0; c < speed.extent.rows; ++c) {
        trace.turns.push_back({of_cycle(speed.rpm, c), first + c * samples, samples, c > 0});
        if (!speed.oil_C.empty())
            trace.turns.back().oil_C = of_cycle(speed.oil_C, c);
    }
}

herr_t collect(hid_t, const char* name, const H5L_info_t*, void* names) {
    if (std::string_view(name).starts_with("speed_"))
        static_cast<std::vector<std::string>*>(names)->emplace_back(name);
    return 0;
}

} // namespace

RigTrace read_rig_hdf5(const std::filesystem::path& path, const ReadOptions& options) {
    H5Eset_auto2(H5E_DEFAULT, nullptr, nullptr); // errors are told in our words, not on stderr
    RigTrace trace;
    trace.source = shown_path(path);
    const H5Handle file(H5Fopen(path.c_str(), H5F_ACC_RDONLY, H5P_DEFAULT), H5Fclose);
    if (!file.valid())
        throw InputError({trace.source, "", "cannot be opened as an HDF5 file",
                          "check that it exists, is complete and was written as HDF5"});
    try {
        trace.valve = text_attribute(file.get(), "valve");
    } catch (const std::runtime_error& error) {
        throw InputError({trace.source, "/", error.what(), "state the valve's name as one text"});
    }
    std::vector<std::string> names;
    H5Literate(file.get(), H5_INDEX_NAME, H5_ITER_INC, nullptr, collect, &names);
    if (names.empty())
        throw InputError(
            {trace.source, "", "holds no group speed_...", "store one group a speed, such as /speed_06000"});
    std::vector<Speed> speeds;
    std::uint64_t readings = 0;
    for (const std::string& name : names) {
        throw_if_stopped(options.stop);
        speeds.push_back(look_at(file.get(), name, trace.source));
        readings += speeds.back().extent.numbers();
    }
    if (readings > kMostReadings)
        throw InputError(
            {trace.source, "", fmt::format("holds {} readings", readings),
             fmt::format("at most {} million; keep fewer cycles a speed", kMostReadings / 1000000)});
    trace.lift_mm.reserve(readings);
    trace.crank_deg.reserve(readings);
    for (std::size_t i = 0; i < speeds.size(); ++i) {
        throw_if_stopped(options.stop);
        read_speed(file.get(), speeds[i], trace);
        if (options.progress)
            options.progress(static_cast<double>(i + 1) / static_cast<double>(speeds.size()));
    }
    return trace;
}

} // namespace bathmos::io
