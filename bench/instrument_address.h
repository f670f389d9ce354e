#pragma once

#include "bench/socket_address.h"

namespace ustor {

/// Where an instrument is and how it is spoken to.
struct InstrumentAddress {
    enum class Link {
        None,
        Socket, ///< raw TCP
        Serial, ///< a serial port: eight bits, no parity, one stop bit, no flow control
        Usbtmc, ///< a device of the kernel's USB test and measurement class driver
        Video,  ///< a V4L2 capture device
        Replay  ///< a recording folder played as a camera
    };
    Link link = Link::None;
    SocketAddress socket;
    QString device; ///< path, for everything but a socket
    int baud = 9600;
    QString profile; ///< path of an instrument profile; empty: plain SCPI
    int channel = 1;

    InstrumentAddress() = default;
    InstrumentAddress(SocketAddress at) : link(Link::Socket), socket(std::move(at)) {}
    bool known() const { return link != Link::None; }
    /// What `instrumentFromText` reads back.
    QString text() const;
    /// Without the options, for messages.
    QString place() const;
};

/// "HOST:PORT", "serial:DEVICE@BAUD", "usbtmc:DEVICE", "v4l2:DEVICE" or "replay:FOLDER", then any of
/// "; profile=FILE" and "; channel=N".
Result<InstrumentAddress> instrumentFromText(const QString& text);

/// Where the instruments of a bench are. The control socket is only there on a simulated bench, and only
/// practice uses it.
struct BenchAddress {
    InstrumentAddress supply, meter, camera;
    SocketAddress control;
    double speed = 1;    ///< of the bench's time against the host's; 1 for anything real
    double patience = 1; ///< how many times longer a simulated bench may be silent; 1 for anything real
};

/// Reads the line that a simulated bench prints when it is ready.
Result<BenchAddress> benchFromReadyLine(const QByteArray& line);

} // namespace ustor
