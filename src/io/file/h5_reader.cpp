#include "io/file/h5_reader.h"

#include "io/text/encoding.h"

#include <cstring>
#include <fmt/format.h>
#include <stdexcept>

namespace bathmos::io {

namespace {

constexpr std::size_t kMostText = 4096;
// Deflate shrinks at most some 1030 times; what claims more holds nothing.
constexpr std::uint64_t kMostShrunk = 1100, kMostNumbers = std::uint64_t(1) << 40;

[[noreturn]] void refuse(const char* name, const std::string& what) {
    throw std::runtime_error(fmt::format("{}: {}", name, what));
}

bool is_number(hid_t type) {
    const H5T_class_t kind = H5Tget_class(type);
    return (kind == H5T_INTEGER || kind == H5T_FLOAT) && H5Tget_size(type) <= 16;
}

std::uint64_t points_of(hid_t space) {
    const hssize_t points = H5Sget_simple_extent_npoints(space);
    return points < 0 ? 0 : static_cast<std::uint64_t>(points);
}

} // namespace

std::vector<double> number_attribute(hid_t object, const char* name, std::size_t most) {
    if (H5Aexists(object, name) <= 0)
        return {};
    const H5Handle attribute(H5Aopen(object, name, H5P_DEFAULT), H5Aclose);
    const H5Handle type(H5Aget_type(attribute.get()), H5Tclose);
    const H5Handle space(H5Aget_space(attribute.get()), H5Sclose);
    if (!attribute.valid() || !type.valid() || !space.valid() || !is_number(type.get()))
        refuse(name, "is no number");
    const std::uint64_t points = points_of(space.get());
    if (points == 0 || points > most)
        refuse(name, fmt::format("holds {} numbers", points));
    std::vector<double> out(points);
    if (H5Aread(attribute.get(), H5T_NATIVE_DOUBLE, out.data()) < 0)
        refuse(name, "cannot be read");
    return out;
}

std::string text_attribute(hid_t object, const char* name) {
    if (H5Aexists(object, name) <= 0)
        return {};
    const H5Handle attribute(H5Aopen(object, name, H5P_DEFAULT), H5Aclose);
    const H5Handle type(H5Aget_type(attribute.get()), H5Tclose);
    const H5Handle space(H5Aget_space(attribute.get()), H5Sclose);
    if (!attribute.valid() || !type.valid() || !space.valid() || H5Tget_class(type.get()) != H5T_STRING)
        return {}; // a valve's number instead of its name, say
    if (points_of(space.get()) != 1)
        refuse(name, fmt::format("holds {} texts", points_of(space.get())));
    if (H5Tis_variable_str(type.get()) > 0) {
        char* text = nullptr;
        if (H5Aread(attribute.get(), type.get(), &text) < 0 || !text)
            return {};
        const std::string out(text, strnlen(text, kMostText));
        H5free_memory(text);
        return to_utf8(out, Encoding::Utf8);
    }
    const std::size_t size = H5Tget_size(type.get());
    if (size > kMostText)
        refuse(name, fmt::format("is a text of {} bytes", size));
    std::string out(size, '\0');
    if (H5Aread(attribute.get(), type.get(), out.data()) < 0)
        refuse(name, "cannot be read");
    return to_utf8(out.substr(0, out.find('\0')), Encoding::Utf8);
}

H5Extent extent_of(hid_t set) {
    const H5Handle type(H5Dget_type(set), H5Tclose);
    const H5Handle space(H5Dget_space(set), H5Sclose);
    hsize_t size[2] = {0, 0};
    if (!type.valid() || !space.valid() || H5Sget_simple_extent_ndims(space.get()) != 2 ||
        H5Sget_simple_extent_dims(space.get(), size, nullptr) != 2)
        throw std::runtime_error("it is not two-dimensional");
    if (!is_number(type.get()))
        throw std::runtime_error("it does not hold numbers");
    if (size[0] == 0 || size[1] == 0)
        throw std::runtime_error("it is empty");
    if (size[0] > kMostNumbers / size[1])
        throw std::runtime_error(fmt::format("{} x {} numbers are too many", size[0], size[1]));
    const H5Extent out{size[0], size[1]};
    const std::uint64_t stored = H5Dget_storage_size(set);
    if (out.numbers() * H5Tget_size(type.get()) / kMostShrunk > stored)
        throw std::runtime_error(fmt::format("it says {} x {} numbers, the file holds {} bytes of them",
                                             size[0], size[1], stored));
    return out;
}

} // namespace bathmos::io
