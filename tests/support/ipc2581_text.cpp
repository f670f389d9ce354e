#include "support/ipc2581_text.h"

#include "base/number_text.h"

#include <cmath>
#include <map>
#include <numbers>
#include <set>

namespace ustor::testing {
namespace {

class Writer {
  public:
    Writer(const Board& board, const Ipc2581Dialect& dialect)
        : m_board(board), m_dialect(dialect), m_perUnit(dialect.units == "INCH"     ? 25.4
                                                        : dialect.units == "MICRON" ? 0.001
                                                                                    : 1) {}

    std::string write() {
        add(R"(<?xml version="1.0" encoding="UTF-8"?>)"
            "\n<IPC-2581 revision=\"");
        m_text += m_dialect.revision;
        add("\" xmlns=\"http://webstds.ipc.org/2581\">\n<Content roleRef=\"Owner\">\n<FunctionMode "
            "mode=\"ASSEMBLY\"/>\n<StepRef name=\"board\"/>\n");
        shapes();
        add("</Content>\n");
        bom();
        add("<Ecad name=\"" + m_board.name + "\">\n<CadHeader units=\"" + m_dialect.units +
            "\"/>\n<CadData>\n");
        layers();
        add("<Step name=\"board\" type=\"BOARD\">\n");
        stacks();
        profile();
        packages();
        components();
        nets();
        for (int layer = 0; layer < layerCount(); ++layer)
            features(layer);
        holes();
        add("</Step>\n</CadData>\n</Ecad>\n</IPC-2581>\n");
        return std::move(m_text);
    }

  private:
    void add(const std::string& text) { m_text += text; }
    std::string length(double mm) const { return textOfNumber(mm / m_perUnit); }
    std::string at(BoardPoint p) const { return "x=\"" + length(p.x_mm) + "\" y=\"" + length(p.y_mm) + "\""; }
    int layerCount() const { return std::max<int>(2, static_cast<int>(m_board.copper.size())); }
    static std::string layerName(int layer) { return "COPPER_" + std::to_string(layer + 1); }
    std::string netName(NetIndex net) const { return net < 0 ? "No Net" : m_board.nets[net].name; }

    static std::string padId(const Pad& pad, bool turned) {
        const double w = turned ? pad.height_mm : pad.width_mm, h = turned ? pad.width_mm : pad.height_mm;
        return "R" + textOfNumber(w) + "x" + textOfNumber(h);
    }
    static bool isTurned(const Part& part) {
        constexpr double right_deg = 90;
        return std::fabs(std::fabs(std::remainder(part.rotation_deg, 2 * right_deg)) - right_deg) < 1;
    }

    void shapes() {
        std::map<std::string, std::pair<double, double>> rects;
        for (const Part& part : m_board.parts)
            for (const Pad& pad : part.pads)
                rects[padId(pad, false)] = {pad.width_mm, pad.height_mm};
        add("<DictionaryStandard units=\"" + m_dialect.units + "\">\n");
        for (const auto& [id, size] : rects)
            add("<EntryStandard id=\"" + id + "\"><RectCenter width=\"" + length(size.first) +
                "\" height=\"" + length(size.second) + "\"/></EntryStandard>\n");
        add("<EntryStandard id=\"VIA\"><Circle diameter=\"" + length(viaPad_mm) +
            "\"/></EntryStandard>\n</DictionaryStandard>\n");
    }

    void bom() {
        add("<Bom name=\"bom\">\n");
        for (const Part& part : m_board.parts)
            add("<BomItem OEMDesignNumberRef=\"P" + part.designator +
                "\" quantity=\"1\" category=\"ELECTRICAL\"><RefDes name=\"" + part.designator +
                "\" packageRef=\"" + part.package +
                "\" populate=\"true\"/><Characteristics category=\"ELECTRICAL\"><Textual "
                "textualCharacteristicName=\"VALUE\" textualCharacteristicValue=\"" +
                part.value + "\"/></Characteristics></BomItem>\n");
        add("</Bom>\n");
    }

    void layers() {
        for (int i = 0; i < layerCount(); ++i)
            add("<Layer name=\"" + layerName(i) + "\" layerFunction=\"" +
                (i == 0 || i == layerCount() - 1 ? "CONDUCTOR" : "PLANE") + "\" side=\"" +
                (i == 0                  ? "TOP"
                 : i == layerCount() - 1 ? "BOTTOM"
                                         : "INTERNAL") +
                "\" polarity=\"POSITIVE\"/>\n");
        add("<Layer name=\"HOLES\" layerFunction=\"DRILL\" side=\"ALL\" polarity=\"POSITIVE\"/>\n");
        add("<Stackup name=\"s\" overallThickness=\"" + length(m_board.thickness_mm) +
            "\"><StackupGroup name=\"g\">\n");
        for (int i = 0; i < layerCount(); ++i) {
            const double thickness = m_board.copper.empty() ? 0.035 : m_board.copper[i].thickness_mm;
            add("<StackupLayer layerOrGroupRef=\"" + layerName(i) + "\" thickness=\"" + length(thickness) +
                "\" sequence=\"" + std::to_string(i + 1) + "\"/>\n");
        }
        add("</StackupGroup></Stackup>\n");
    }

    void stacks() {
        const bool old = m_dialect.revision == 'B';
        add(old ? "<PadStack name=\"V\">" : "<PadStackDef name=\"V\">");
        add(std::string(old ? "<LayerHole" : "<PadstackHoleDef") + " name=\"v\" diameter=\"" +
            length(viaHole_mm) + "\" platingStatus=\"VIA\" plusTol=\"0\" minusTol=\"0\" x=\"0\" y=\"0\"/>");
        for (int i = 0; i < layerCount(); ++i)
            add(std::string(old ? "<LayerPad" : "<PadstackPadDef padUse=\"REGULAR\"") + " layerRef=\"" +
                layerName(i) + "\"><Location x=\"0\" y=\"0\"/><StandardPrimitiveRef id=\"VIA\"/>" +
                (old ? "</LayerPad>" : "</PadstackPadDef>"));
        add(old ? "</PadStack>\n" : "</PadStackDef>\n");
    }

    std::string polygon(const std::vector<BoardPoint>& points) const {
        std::string text;
        for (std::size_t i = 0; i < points.size(); ++i)
            text += (i == 0 ? "<PolyBegin " : "<PolyStepSegment ") + at(points[i]) + "/>";
        return text + "<PolyStepSegment " + at(points.front()) + "/>";
    }

    void profile() {
        if (!m_board.outline.empty())
            add("<Profile><Polygon>" + polygon(m_board.outline) + "</Polygon></Profile>\n");
    }

    /// A pad's place in its part's own frame: unturned, seen from the side it is mounted on.
    static BoardPoint own(const Part& part, BoardPoint p) {
        const double a = -part.rotation_deg * std::numbers::pi / 180;
        const double dx = p.x_mm - part.centre.x_mm, dy = p.y_mm - part.centre.y_mm;
        const double x = dx * std::cos(a) - dy * std::sin(a), y = dx * std::sin(a) + dy * std::cos(a);
        return {part.side == Side::Bottom ? -x : x, y};
    }

    void packages() {
        std::set<std::string> written;
        for (const Part& part : m_board.parts) {
            if (!written.insert(part.package).second) continue;
            const double w = part.width_mm / 2, h = part.height_mm / 2;
            add("<Package name=\"" + part.package + "\" type=\"OTHER\" pinOne=\"1\"><Outline><Polygon>" +
                polygon({{-w, -h}, {w, -h}, {w, h}, {-w, h}}) + "</Polygon></Outline>\n");
            for (const Pad& pad : part.pads)
                add("<Pin number=\"" + pad.pin + "\" type=\"" + (pad.through ? "THRU" : "SURFACE") +
                    "\" electricalType=\"ELECTRICAL\"><Location " + at(own(part, pad.at)) +
                    "/><StandardPrimitiveRef id=\"" + padId(pad, isTurned(part)) + "\"/></Pin>\n");
            add("</Package>\n");
        }
    }

    void components() {
        for (const Part& part : m_board.parts) {
            const bool bottom = part.side == Side::Bottom;
            const double turn = bottom && m_dialect.turnFirst ? -part.rotation_deg : part.rotation_deg;
            add("<Component refDes=\"" + part.designator + "\" packageRef=\"" + part.package + "\" part=\"P" +
                part.designator + "\" layerRef=\"" + layerName(bottom ? layerCount() - 1 : 0) +
                "\" mountType=\"SMT\"><Xform rotation=\"" + textOfNumber(turn) + "\"" +
                (bottom && m_dialect.mirrorWord ? " mirror=\"true\"" : "") + "/><Location " +
                at(part.centre) + "/></Component>\n");
        }
    }

    void nets() {
        std::vector<std::string> pins(m_board.nets.size());
        for (const Part& part : m_board.parts)
            for (const Pad& pad : part.pads)
                if (pad.net >= 0)
                    pins[pad.net] +=
                        "<PinRef componentRef=\"" + part.designator + "\" pin=\"" + pad.pin + "\"/>";
        for (std::size_t i = 0; i < pins.size(); ++i)
            add("<LogicalNet name=\"" + m_board.nets[i].name + "\">" + pins[i] + "</LogicalNet>\n");
    }

    void features(int layer) {
        add("<LayerFeature layerRef=\"" + layerName(layer) + "\">\n");
        for (const Part& part : m_board.parts)
            for (const Pad& pad : part.pads) {
                const int on = part.side == Side::Bottom ? layerCount() - 1 : 0;
                if (layer != on && !pad.through) continue;
                add("<Set net=\"" + netName(pad.net) + "\"><Pad><Location " + at(pad.at) +
                    "/><StandardPrimitiveRef id=\"" + padId(pad, false) + "\"/>" +
                    (m_dialect.pinsOnCopper
                         ? "<PinRef componentRef=\"" + part.designator + "\" pin=\"" + pad.pin + "\"/>"
                         : std::string()) +
                    "</Pad></Set>\n");
            }
        for (const Via& via : m_board.vias)
            add("<Set net=\"" + netName(via.net) + "\"><Pad padstackDefRef=\"V\"><Location " + at(via.at) +
                "/></Pad></Set>\n");
        if (layer < static_cast<int>(m_board.copper.size()))
            for (const CopperPiece& piece : m_board.copper[layer].pieces) {
                add("<Set net=\"" + netName(piece.net) + "\"><Features><Contour><Polygon>" +
                    polygon(piece.outline) + "</Polygon>");
                for (const auto& hole : piece.holes)
                    add("<Cutout>" + polygon(hole) + "</Cutout>");
                add("</Contour></Features></Set>\n");
            }
        add("</LayerFeature>\n");
    }

    void holes() {
        add("<LayerFeature layerRef=\"HOLES\">\n");
        for (const Via& via : m_board.vias)
            add("<Set net=\"" + netName(via.net) + "\"><Hole name=\"h\" diameter=\"" + length(via.hole_mm) +
                "\" platingStatus=\"VIA\" plusTol=\"0\" minusTol=\"0\" " + at(via.at) + "/></Set>\n");
        for (const Part& part : m_board.parts)
            for (const Pad& pad : part.pads)
                if (pad.hole_mm > 0)
                    add("<Set net=\"" + netName(pad.net) + "\"><Hole name=\"h\" diameter=\"" +
                        length(pad.hole_mm) + "\" platingStatus=\"PLATED\" plusTol=\"0\" minusTol=\"0\" " +
                        at(pad.at) + "/></Set>\n");
        add("</LayerFeature>\n");
    }

    static constexpr double viaPad_mm = 0.5, viaHole_mm = 0.3;
    const Board& m_board;
    const Ipc2581Dialect& m_dialect;
    double m_perUnit;
    std::string m_text;
};

} // namespace

std::string ipc2581Text(const Board& board, const Ipc2581Dialect& dialect) {
    return Writer(board, dialect).write();
}

Board manyParts(int parts, int padsEach) {
    Board board;
    board.name = "many";
    board.copperLayers = 4;
    const int columns = static_cast<int>(std::ceil(std::sqrt(parts)));
    constexpr double pitch_mm = 2.5, edge_mm = 3;
    const double side_mm = columns * pitch_mm + 2 * edge_mm;
    board.outline = {{0, 0}, {side_mm, 0}, {side_mm, side_mm}, {0, side_mm}};
    board.nets.push_back({"GND", true, {}, false});
    constexpr int partsARail = 200;
    for (int i = 0; i * partsARail < parts; ++i)
        board.nets.push_back({"+3V3_" + std::to_string(i), false, Volts(3.3), false});
    const int firstSignal = static_cast<int>(board.nets.size());
    for (int i = 0; i < parts; ++i)
        board.nets.push_back({"N" + std::to_string(i), false, {}, false});
    board.copper.resize(4);
    for (int i = 0; i < 4; ++i)
        board.copper[i].name = "copper " + std::to_string(i + 1);
    for (int i = 0; i < parts; ++i) {
        Part part;
        part.designator = (i % 3 == 0 ? "U" : i % 3 == 1 ? "C" : "R") + std::to_string(i + 1);
        part.value = "100n";
        part.side = i % 4 == 3 ? Side::Bottom : Side::Top;
        part.package = part.side == Side::Bottom ? "M" : "P";
        part.centre = {edge_mm + pitch_mm * (i % columns + 0.5), edge_mm + pitch_mm * (i / columns + 0.5)};
        part.width_mm = 1.6;
        part.height_mm = 1.2;
        for (int k = 0; k < padsEach; ++k) {
            const int perRow = (padsEach + 1) / 2;
            const double along = 1.6 / perRow * (k % perRow + 0.5) - 0.8;
            Pad pad;
            pad.pin = std::to_string(k + 1);
            pad.at = {part.centre.x_mm + along, part.centre.y_mm + (k < perRow ? -0.5 : 0.5)};
            pad.net = k == 0   ? 0
                      : k == 1 ? 1 + i / partsARail
                               : firstSignal + (i + (k - 2) * columns) % parts;
            pad.side = part.side;
            pad.width_mm = 0.3;
            pad.height_mm = 0.4;
            part.pads.push_back(pad);
        }
        board.vias.push_back({{part.centre.x_mm, part.centre.y_mm}, 0, 0.3});
        const int layer = part.side == Side::Top ? 0 : 3;
        const double x = part.pads[0].at.x_mm, y = part.pads[0].at.y_mm;
        board.copper[layer].pieces.push_back({{{x - 0.1, y},
                                               {x + 0.1, y},
                                               {part.centre.x_mm + 0.1, part.centre.y_mm},
                                               {part.centre.x_mm - 0.1, part.centre.y_mm}},
                                              {},
                                              0});
        board.parts.push_back(std::move(part));
    }
    for (const int layer : {1, 2})
        board.copper[layer].pieces.push_back(
            {{{1, 1}, {side_mm - 1, 1}, {side_mm - 1, side_mm - 1}, {1, side_mm - 1}},
             {},
             layer == 1 ? 0 : 1});
    return board;
}

} // namespace ustor::testing
