#include "bench/line_link.h"

#include "bench/serial_link.h"
#include "bench/socket_link.h"
#include "bench/usbtmc_link.h"

namespace ustor {

std::unique_ptr<LineLink> linkTo(const InstrumentAddress& address, const QByteArray& lineEnd) {
    switch (address.link) {
    case InstrumentAddress::Link::Socket:
        return std::make_unique<SocketLink>(address.socket, lineEnd);
    case InstrumentAddress::Link::Serial:
        return std::make_unique<SerialLink>(address.device, address.baud, lineEnd);
    case InstrumentAddress::Link::Usbtmc:
        return std::make_unique<UsbtmcLink>(address.device, lineEnd);
    default:
        return nullptr;
    }
}

} // namespace ustor
