#include "guard/off_until_read.h"

namespace ustor {

OffUntilRead::OffUntilRead(ScpiSupply& supply, const OutputLedger& ledger, bool simulated, QObject* parent)
    : QObject(parent), m_supply(supply), m_ledger(ledger), m_simulated(simulated) {
    constexpr int every_ms = 100;
    m_again.setInterval(every_ms);
    connect(&m_again, &QTimer::timeout, this, &OffUntilRead::tryNow);
    connect(&m_supply, &Supply::connected, this, [this] {
        if (begun()) tryNow();
    });
    connect(&m_supply, &Supply::lost, this, [this] {
        m_asked = false;
        if (begun() && m_simulated && m_supply.nobodyListens()) finish();
    });
}

void OffUntilRead::begin() {
    if (begun()) return;
    m_again.start();
    if (m_simulated && m_supply.nobodyListens()) return finish();
    tryNow();
}

void OffUntilRead::tryNow() {
    m_ledger.sign();
    m_supply.switchOff();
    if (!m_supply.isConnected() || m_asked) return;
    m_asked = true; // a slow supply is not asked again before it has answered
    m_supply.confirmOff([this](bool off) {
        m_asked = false;
        if (off && begun()) finish();
    });
}

void OffUntilRead::finish() {
    m_again.stop();
    m_ledger.clear();
    emit done();
}

} // namespace ustor
