#pragma once

#include "base/message.h"
#include "bench/instrument_address.h"

#include <QString>
#include <vector>

namespace ustor {

/// One line of the ledger: an output that may be on.
struct LedgerEntry {
    QString file;             ///< of the entry
    InstrumentAddress supply; ///< not known where the entry cannot be read
    Message trouble;          ///< why it cannot be read; else empty
    qint64 guard = 0;         ///< process that is in charge
    qint64 window = 0;        ///< process that wanted it on; 0 where it is only being switched off
    bool simulated = false;   ///< a program on this machine: nothing is on when nobody listens there
    double patience = 1;      ///< of a simulated bench
    double age_s = 0;         ///< since whoever is in charge last signed
    /// Nobody is in charge any more, or whoever is hangs.
    bool abandoned() const;
};

/// The ledger of this machine's user: a small file for every output that may be on, in the runtime folder
/// ("ustor-output/1"). It is written before an output comes on, signed again and again by the process in
/// charge, and goes when the output was read as off. What stands there without a fresh signature is switched
/// off by the next program of this project that starts.
class OutputLedger {
  public:
    /// `supply`: the output that this process is in charge of.
    OutputLedger(const InstrumentAddress& supply, bool simulated, double patience);
    /// False where it cannot be written: then nothing may be switched on. Written through to the disk.
    /// `window`: the process that wants it on; 0 where it is only to be switched off.
    bool stand(qint64 guard, qint64 window);
    void sign() const; ///< "I live, and am in charge"
    void clear() const;
    bool isFor(const LedgerEntry& entry) const { return entry.file == m_file; }

    static QString folder(); ///< made where it is not there, for this user only
    static std::vector<LedgerEntry> entries();
    /// An entry that no machine can settle: a person says that the leads are off.
    static void strike(const LedgerEntry& entry);

  private:
    InstrumentAddress m_supply;
    bool m_simulated;
    double m_patience;
    QString m_file;
};

} // namespace ustor
