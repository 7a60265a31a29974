#include "core/problem/input_error.h"
#include "io/file/h5_handle.h"
#include "io/rig/rig_file.h"

#include <cmath>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

std::optional<double> number_attribute(hid_t object, const char* name) {
    if (H5Aexists(object, name) <= 0)
        return std::nullopt;
    const H5Handle attribute(H5Aopen(object, name, H5P_DEFAULT), H5Aclose);
    double value = 0;
    if (!attribute.valid() || H5Aread(attribute.get(), H5T_NATIVE_DOUBLE, &value) < 0)
        return std::nullopt;
    return value;
}

std::string text_attribute(hid_t object, const char* name) {
    if (H5Aexists(object, name) <= 0)
        return {};
    const H5Handle attribute(H5Aopen(object, name, H5P_DEFAULT), H5Aclose);
    const H5Handle type(H5Aget_type(attribute.get()), H5Tclose);
    if (!type.valid() || H5Tget_class(type.get()) != H5T_STRING)
        return {};
    if (H5Tis_variable_str(type.get()) > 0) {
        char* text = nullptr;
        if (H5Aread(attribute.get(), type.get(), &text) < 0 || !text)
            return {};
        std::string out = text;
        H5free_memory(text);
        return out;
    }
    std::string out(H5Tget_size(type.get()), '\0');
    H5Aread(attribute.get(), type.get(), out.data());
    return out.substr(0, out.find('\0'));
}

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

void read_group(hid_t file, const std::string& name, RigTrace& trace) {
    const InputProblem where{trace.source, "/" + name, "", ""};
    const auto refuse = [&](std::string what, std::string mend) {
        throw InputError({where.source, where.location, std::move(what), std::move(mend)});
    };
    const H5Handle group(H5Gopen2(file, name.c_str(), H5P_DEFAULT), H5Gclose);
    if (H5Lexists(group.get(), "lift_mm", H5P_DEFAULT) <= 0)
        refuse("holds no data set lift_mm", "one group a speed, with lift_mm of cycles x samples");
    const H5Handle data(H5Dopen2(group.get(), "lift_mm", H5P_DEFAULT), H5Dclose);
    const H5Handle space(H5Dget_space(data.get()), H5Sclose);
    hsize_t size[2] = {0, 0};
    if (H5Sget_simple_extent_ndims(space.get()) != 2 ||
        H5Sget_simple_extent_dims(space.get(), size, nullptr) != 2 || size[0] == 0 || size[1] < 90)
        refuse("lift_mm does not have the shape cycles x samples",
               "store at least one cycle of 90 or more samples");
    auto rpm = number_attribute(group.get(), "rpm");
    if (!rpm)
        rpm = number_attribute(data.get(), "rpm");
    if (!rpm || !(*rpm > 0))
        refuse("has no attribute rpm above 0", "state the speed of the group");
    std::string unit = text_attribute(data.get(), "units");
    if (unit.empty())
        unit = text_attribute(group.get(), "units");
    const auto factor = static_cast<float>(to_mm(unit, where));
    const std::size_t first = trace.lift_mm.size(), samples = size[1];
    trace.lift_mm.resize(first + size[0] * size[1]);
    if (H5Dread(data.get(), H5T_NATIVE_FLOAT, H5S_ALL, H5S_ALL, H5P_DEFAULT, trace.lift_mm.data() + first) <
        0)
        refuse("lift_mm cannot be read", "the file is damaged, or its compression is not known here");
    for (std::size_t i = first; i < trace.lift_mm.size(); ++i) {
        trace.lift_mm[i] *= factor;
        trace.crank_deg.push_back(720.0f * static_cast<float>((i - first) % samples) /
                                  static_cast<float>(samples));
    }
    for (std::size_t c = 0; c < size[0]; ++c)
        trace.turns.push_back({*rpm, first + c * samples, samples, c > 0});
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
    trace.source = path.string();
    const H5Handle file(H5Fopen(path.c_str(), H5F_ACC_RDONLY, H5P_DEFAULT), H5Fclose);
    if (!file.valid())
        throw InputError({trace.source, "", "cannot be opened as an HDF5 file",
                          "check that it exists, is complete and was written as HDF5"});
    trace.valve = text_attribute(file.get(), "valve");
    std::vector<std::string> names;
    H5Literate(file.get(), H5_INDEX_NAME, H5_ITER_INC, nullptr, collect, &names);
    if (names.empty())
        throw InputError(
            {trace.source, "", "holds no group speed_...", "store one group a speed, such as /speed_06000"});
    for (std::size_t i = 0; i < names.size(); ++i) {
        throw_if_stopped(options.stop);
        read_group(file.get(), names[i], trace);
        if (options.progress)
            options.progress(static_cast<double>(i + 1) / static_cast<double>(names.size()));
    }
    return trace;
}

} // namespace bathmos::io
