#include "bench/v4l2_system.h"

#include <cerrno>
#include <fcntl.h>
#include <sys/ioctl.h>
#include <sys/mman.h>
#include <unistd.h>

namespace ustor {

int V4l2System::open(const char* path) {
    return ::open(path, O_RDWR | O_NONBLOCK | O_CLOEXEC);
}

void V4l2System::close(int file) {
    ::close(file);
}

int V4l2System::control(int file, unsigned long request, void* argument) {
    int result = 0;
    do
        result = ::ioctl(file, request, argument);
    while (result < 0 && errno == EINTR);
    return result;
}

void* V4l2System::map(int file, std::size_t length, long offset) {
    void* const address = ::mmap(nullptr, length, PROT_READ | PROT_WRITE, MAP_SHARED, file, offset);
    return address == MAP_FAILED ? nullptr : address;
}

void V4l2System::unmap(void* address, std::size_t length) {
    ::munmap(address, length);
}

} // namespace ustor
