// HDF5 objects read with their extents and types checked first: a file says what it holds, and may be wrong.
#pragma once

#include "io/file/h5_handle.h"

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace bathmos::io {

/// Numbers of an attribute, whatever their shape; empty where there is none of that name. Throws
/// std::runtime_error saying what is wrong for an attribute that holds no numbers, or more than `most`.
std::vector<double> number_attribute(hid_t object, const char* name, std::size_t most);

/// One text; "" where there is none, in UTF-8. Throws std::runtime_error for a list of texts and for text of
/// more than 4 kB.
std::string text_attribute(hid_t object, const char* name);

/// Rows and columns of a two-dimensional set of numbers.
struct H5Extent {
    std::uint64_t rows = 0, columns = 0;
    std::uint64_t numbers() const { return rows * columns; }
};
/// Throws std::runtime_error for a set of another shape or type, one that would not fit into memory's count,
/// and one that claims far more numbers than its bytes in the file can hold.
H5Extent extent_of(hid_t set);

} // namespace bathmos::io
