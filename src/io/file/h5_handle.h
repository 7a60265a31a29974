// An HDF5 object that closes itself.
#pragma once

#include <hdf5.h>

namespace bathmos::io {

// Closes an HDF5 handle with the function of its kind.
class H5Handle {
  public:
    H5Handle(hid_t id, herr_t (*close)(hid_t)) : id_(id), close_(close) {}
    ~H5Handle() {
        if (id_ >= 0)
            close_(id_);
    }
    H5Handle(const H5Handle&) = delete;
    H5Handle& operator=(const H5Handle&) = delete;
    hid_t get() const { return id_; }
    bool valid() const { return id_ >= 0; }

  private:
    hid_t id_;
    herr_t (*close_)(hid_t);
};

} // namespace bathmos::io
