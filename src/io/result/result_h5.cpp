#include "io/result/result_h5.h"

#include "core/problem/input_error.h"
#include "io/file/h5_handle.h"
#include "io/file/safe_file.h"
#include "io/result/channel_columns.h"
#include "io/text/encoding.h"

#include <fmt/format.h>

namespace bathmos::io {

namespace {

constexpr std::size_t kGrowBytes = 1 << 22;

class Writer {
  public:
    explicit Writer(std::string source) : source_(std::move(source)) {}

    void check(bool good) const {
        if (!good)
            throw InputError({source_, "", "the file cannot be written",
                              "check that the folder exists, may be written to and has room"});
    }
    void numbers(hid_t group, const std::string& name, const std::vector<double>& values,
                 std::size_t columns = 1) const {
        const hsize_t size[2] = {columns ? values.size() / columns : 0, columns};
        const H5Handle space(H5Screate_simple(columns == 1 ? 1 : 2, size, nullptr), H5Sclose);
        const H5Handle set(H5Dcreate2(group, name.c_str(), H5T_IEEE_F64LE, space.get(), H5P_DEFAULT,
                                      H5P_DEFAULT, H5P_DEFAULT),
                           H5Dclose);
        check(set.valid() &&
              H5Dwrite(set.get(), H5T_NATIVE_DOUBLE, H5S_ALL, H5S_ALL, H5P_DEFAULT, values.data()) >= 0);
    }
    void attribute(hid_t object, const std::string& name, double value) const {
        const H5Handle space(H5Screate(H5S_SCALAR), H5Sclose);
        const H5Handle out(
            H5Acreate2(object, name.c_str(), H5T_IEEE_F64LE, space.get(), H5P_DEFAULT, H5P_DEFAULT),
            H5Aclose);
        check(out.valid() && H5Awrite(out.get(), H5T_NATIVE_DOUBLE, &value) >= 0);
    }
    void attribute(hid_t object, const std::string& name, const std::string& text) const {
        const H5Handle space(H5Screate(H5S_SCALAR), H5Sclose);
        const H5Handle type(H5Tcopy(H5T_C_S1), H5Tclose);
        H5Tset_size(type.get(), text.size() + 1);
        const H5Handle out(
            H5Acreate2(object, name.c_str(), type.get(), space.get(), H5P_DEFAULT, H5P_DEFAULT), H5Aclose);
        check(out.valid() && H5Awrite(out.get(), type.get(), text.c_str()) >= 0);
    }

  private:
    std::string source_;
};

std::vector<double> scaled(const std::vector<double>& values, double factor) {
    std::vector<double> out;
    for (double v : values)
        out.push_back(v * factor);
    return out;
}

void write_motion(const Writer& write, hid_t file, const Motion& m) {
    const H5Handle group(H5Gcreate2(file, fmt::format("speed_{:05.0f}", m.speed_rpm).c_str(), H5P_DEFAULT,
                                    H5P_DEFAULT, H5P_DEFAULT),
                         H5Gclose);
    write.check(group.valid());
    write.attribute(group.get(), "rpm", m.speed_rpm);
    write.attribute(group.get(), "cycles", static_cast<double>(m.cycles));
    write.attribute(group.get(), "periodic", m.periodic ? 1 : 0);
    for (std::size_t i = 0; i < kMetrics; ++i)
        if (const auto value = m.metrics.in_unit(static_cast<Metric>(i)))
            write.attribute(group.get(), std::string(info(static_cast<Metric>(i)).column), *value);
    for (const ChannelColumn& column : channel_columns())
        write.numbers(group.get(), std::string(column.name), scaled(m[column.channel], column.to_unit));
    std::vector<double> coils, cycles;
    for (float z : m.coils_m)
        coils.push_back(1e3 * static_cast<double>(z));
    if (m.coil_count > 0)
        write.numbers(group.get(), "coils_mm", coils, m.coil_count);
    for (const auto& cycle : m.cloud_m)
        for (double lift : cycle)
            cycles.push_back(1e3 * lift);
    if (!cycles.empty())
        write.numbers(group.get(), "cycles_lift_mm", cycles, kGridPoints);
}

} // namespace

std::string motions_h5(const std::vector<std::shared_ptr<const Motion>>& motions,
                       const std::vector<double>& rigid_m, const std::string& train_name,
                       const std::string& limits_name, const std::string& source) {
    const Writer write(source);
    H5Eset_auto2(H5E_DEFAULT, nullptr, nullptr);
    // Made in memory: the library, if a disk fills up under it, fails again when the program ends.
    const H5Handle access(H5Pcreate(H5P_FILE_ACCESS), H5Pclose);
    write.check(H5Pset_fapl_core(access.get(), kGrowBytes, false) >= 0);
    const H5Handle file(H5Fcreate("motions", H5F_ACC_TRUNC, H5P_DEFAULT, access.get()), H5Fclose);
    write.check(file.valid());
    write.attribute(file.get(), "format", "bathmos-motions 1");
    write.attribute(file.get(), "train", train_name);
    write.attribute(file.get(), "limits", limits_name);
    std::vector<double> crank;
    for (std::size_t i = 0; i < kGridPoints; ++i)
        crank.push_back(-360 + kGridStep_crank_deg * static_cast<double>(i));
    write.numbers(file.get(), "crank_deg", crank);
    write.numbers(file.get(), "kinematic_mm", scaled(rigid_m, 1e3));
    for (const auto& motion : motions)
        write_motion(write, file.get(), *motion);
    write.check(H5Fflush(file.get(), H5F_SCOPE_GLOBAL) >= 0);
    const ssize_t size = H5Fget_file_image(file.get(), nullptr, 0);
    write.check(size > 0);
    std::string image(static_cast<std::size_t>(size), '\0');
    write.check(H5Fget_file_image(file.get(), image.data(), image.size()) == size);
    return image;
}

void write_motions_h5(const std::filesystem::path& path,
                      const std::vector<std::shared_ptr<const Motion>>& motions,
                      const std::vector<double>& rigid_m, const std::string& train_name,
                      const std::string& limits_name) {
    write_file(path, motions_h5(motions, rigid_m, train_name, limits_name, shown_path(path)));
}

} // namespace bathmos::io
