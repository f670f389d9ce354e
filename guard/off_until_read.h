#pragma once

#include "bench/output_ledger.h"
#include "bench/scpi_supply.h"

#include <QObject>
#include <QTimer>

namespace ustor {

/// Tells a supply to switch off, again and again, until it was read as off: however long that takes, whatever
/// the connection does meanwhile. Then strikes the output out of the ledger.
class OffUntilRead : public QObject {
    Q_OBJECT
  public:
    /// `simulated`: done too when nobody listens at its address any more.
    OffUntilRead(ScpiSupply& supply, const OutputLedger& ledger, bool simulated, QObject* parent = nullptr);
    void begin();
    bool begun() const { return m_again.isActive(); }

  signals:
    void done();

  private:
    void tryNow();
    void finish();

    ScpiSupply& m_supply;
    const OutputLedger& m_ledger;
    bool m_simulated, m_asked = false;
    QTimer m_again;
};

} // namespace ustor
