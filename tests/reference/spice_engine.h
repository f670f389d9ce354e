#pragma once

#include <QHash>
#include <QString>

namespace ustor::testing {

/// Solves a netlist's operating point with the SPICE engine of the distribution (package ngspice); voltages
/// of the nodes that it prints, by name in small letters. Empty when the engine is not there.
QHash<QString, double> spice(const QString& netlist);
bool spiceIsMissing();

} // namespace ustor::testing
