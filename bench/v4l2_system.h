#pragma once

#include <cstddef>

namespace ustor {

/// The kernel's calls that a V4L2 camera needs. A test puts its own in their place: no machine of ours has
/// such a camera.
class V4l2System {
  public:
    virtual ~V4l2System() = default;
    // As the system calls of the same names: -1 (null for `map`) and errno on failure.
    virtual int open(const char* path);
    virtual void close(int file);
    virtual int control(int file, unsigned long request, void* argument); ///< ioctl
    virtual void* map(int file, std::size_t length, long offset);         ///< mmap, shared, to read and write
    virtual void unmap(void* address, std::size_t length);
};

} // namespace ustor
