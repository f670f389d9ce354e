#include "diagnosis/knowledge.h"

namespace ustor {

double Knowledge::classWeight(PartClass partClass) {
    switch (partClass) {
    case PartClass::CeramicCapacitor:
        return 1.0;
    case PartClass::PolarCapacitor:
        return 1.4;
    case PartClass::Mosfet:
        return 1.6;
    case PartClass::ClampDiode:
    case PartClass::Regulator:
        return 1.2;
    case PartClass::Ic:
        return 0.8;
    case PartClass::Diode:
        return 0.7;
    case PartClass::Processor:
        return 0.5;
    case PartClass::Connector:
        return 0.15;
    default:
        return 0.1;
    }
}

double Knowledge::minutesToLift(PartClass partClass) {
    switch (partClass) {
    case PartClass::CeramicCapacitor:
    case PartClass::ClampDiode:
    case PartClass::Diode:
        return 2;
    case PartClass::PolarCapacitor:
        return 3;
    case PartClass::Mosfet:
        return 4;
    case PartClass::Regulator:
        return 8;
    case PartClass::Ic:
        return 12;
    case PartClass::Processor:
        return 40;
    case PartClass::Connector:
        return 10;
    default:
        return 5;
    }
}

} // namespace ustor
