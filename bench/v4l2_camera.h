#pragma once

#include "bench/camera.h"
#include "bench/instrument_profile.h"
#include "bench/v4l2_system.h"

#include <QSocketNotifier>
#include <QTimer>
#include <memory>
#include <vector>

namespace ustor {

/// A camera that the kernel shows as a V4L2 capture device with 16-bit grey pictures (Y16). What a count
/// means is in its profile. Frames carry the kernel's time of capture.
class V4l2Camera : public Camera {
    Q_OBJECT
  public:
    V4l2Camera(QString device, InstrumentProfile profile,
               std::unique_ptr<V4l2System> system = std::make_unique<V4l2System>(),
               QObject* parent = nullptr);
    ~V4l2Camera() override;
    void start() override;
    void close();
    bool isConnected() const override { return m_notifier != nullptr; }
    /// What the device offers, in words: "Y16 160x120", one a format and size. Filled by starting.
    const QStringList& offers() const { return m_offers; }

  private:
    struct Buffer {
        void* data = nullptr;
        std::size_t length = 0;
    };
    void attempt();
    Message begin(); ///< empty, or what went wrong
    Message chooseFormat();
    Message mapBuffers();
    void listOffers();
    void take();
    void give(const void* data, std::size_t size, double stamp_s);
    void end(const Message& why);
    void release();
    bool call(unsigned long request, void* argument) const;

    QString m_device;
    InstrumentProfile m_profile;
    std::unique_ptr<V4l2System> m_system;
    QStringList m_offers;
    int m_file = -1, m_width = 0, m_height = 0;
    std::size_t m_stride = 0; ///< bytes from line to line
    bool m_bigEndian = false, m_wanted = false, m_told = false;
    PictureCrop m_crop;
    std::vector<Buffer> m_buffers;
    std::unique_ptr<QSocketNotifier> m_notifier;
    QTimer m_again, m_silence;
};

} // namespace ustor
