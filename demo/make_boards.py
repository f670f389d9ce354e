#!/usr/bin/env python3
"""Draws the two demo boards and writes them as a board house would deliver them: an IPC-D-356A netlist and a
centroid list each. All makers, models, part numbers and nets are invented.

    demo/make_boards.py OUTPUT_FOLDER
"""
import math
import pathlib
import random
import sys

BODY = {"0402": (1.0, 0.5), "0603": (1.6, 0.8), "0805": (2.0, 1.25), "1206": (3.2, 1.6), "1210": (3.2, 2.5),
        "2917": (7.3, 4.3), "IND-5x5": (5.2, 5.2), "IND-7x7": (7.0, 7.0), "FUSE-1206": (3.2, 1.6)}


class Board:
    def __init__(self, name, width, height, seed):
        self.name, self.width, self.height = name, width, height
        self.parts, self.vias, self.taken = [], [], {"top": [], "bottom": []}
        self.count = {}
        self.rng = random.Random(seed)

    def designator(self, letters):
        self.count[letters] = self.count.get(letters, 0) + 1
        return f"{letters}{self.count[letters]}"

    def free(self, x, y, w, h, side):
        return all(abs(x - a) >= (w + c) / 2 + 0.35 or abs(y - b) >= (h + d) / 2 + 0.35 for a, b, c, d in self.taken[side])

    def spot(self, x, y, w, h, side):
        """The free place nearest to a wish, on a 0.1 mm grid, spiralling outward."""
        for ring in range(0, 200):
            radius = ring * 0.25
            for turn in range(max(1, ring * 5)):
                angle = 2 * math.pi * turn / max(1, ring * 5) + 0.4
                px, py = round(x + radius * math.cos(angle), 1), round(y + radius * math.sin(angle), 1)
                inside = w / 2 + 1 < px < self.width - w / 2 - 1 and h / 2 + 1 < py < self.height - h / 2 - 1
                if inside and self.free(px, py, w, h, side):
                    return px, py
        raise SystemExit(f"no room near {x}, {y}")

    def put(self, letters, value, package, x, y, rotation, side, pads, size):
        """pads: (pin, dx, dy, net, width, height, hole) in the part's own axes."""
        w, h = size if rotation % 180 == 0 else (size[1], size[0])
        reach_x = max([w / 2] + [abs((p[1] if rotation % 180 == 0 else p[2])) + 0.3 for p in pads])
        reach_y = max([h / 2] + [abs((p[2] if rotation % 180 == 0 else p[1])) + 0.3 for p in pads])
        w, h = 2 * reach_x, 2 * reach_y
        x, y = self.spot(x, y, w, h, side)
        self.taken[side].append((x, y, w, h))
        if any(p[6] for p in pads):
            self.taken["bottom" if side == "top" else "top"].append((x, y, w, h))
        name = self.designator(letters)
        c, s = math.cos(math.radians(rotation)), math.sin(math.radians(rotation))
        placed = [(pin, x + dx * c - dy * s, y + dx * s + dy * c, net, pw, ph, hole) for pin, dx, dy, net, pw, ph, hole in pads]
        self.parts.append((name, value, package, x, y, rotation, side, placed))
        return name

    def chip(self, letters, value, package, x, y, a, b, side="top", rotation=None):
        w, h = BODY[package]
        rotation = self.rng.choice([0, 90]) if rotation is None else rotation
        dx, pw = w / 2 - 0.1, max(0.4, w * 0.25)
        return self.put(letters, value, package, x, y, rotation, side,
                        [("1", -dx, 0, a, pw, h, 0), ("2", dx, 0, b, pw, h, 0)], (w, h))

    def caps(self, n, value, package, x, y, net, side="top", radius=4.0, ground="GND"):
        for i in range(n):
            angle = 2 * math.pi * i / n + 0.3
            self.chip("C", value, package, x + radius * math.cos(angle), y + radius * math.sin(angle), net, ground, side)

    def mosfet(self, value, x, y, source, gate, drain):
        pads = [("S", -1.6, 0.6, source, 1.2, 2.2, 0), ("G", -1.6, -1.6, gate, 0.6, 0.6, 0), ("D", 1.2, 0, drain, 2.6, 3.8, 0)]
        return self.put("Q", value, "PWR-5x4", x, y, 0, "top", pads, (5.0, 4.2))

    def ic(self, letters, value, package, x, y, size, nets):
        """nets: one name a pin, spread evenly round the four edges; the last one in a list named PAD is the middle."""
        w, h = size
        edge = [n for n in nets if not n.startswith("PAD:")]
        per = math.ceil(len(edge) / 4)
        pads = []
        for i, net in enumerate(edge):
            k, j = divmod(i, per)
            t = (j + 0.5) / per - 0.5
            dx, dy = [(-w / 2, -t * h), (t * w, -h / 2), (w / 2, t * h), (-t * w, h / 2)][k]
            pads.append((str(i + 1), dx, dy, net, 0.5, 0.5, 0))
        for net in nets:
            if net.startswith("PAD:"):
                pads.append((str(len(edge) + 1), 0, 0, net[4:], w * 0.5, h * 0.5, 0))
        return self.put(letters, value, package, x, y, 0, "top", pads, size)

    def connector(self, value, x, y, nets, pitch=2.54):
        pads = [(str(i + 1), (i - (len(nets) - 1) / 2) * pitch, 0, n, 1.6, 1.6, 1.0) for i, n in enumerate(nets)]
        return self.put("J", value, f"HDR-{len(nets)}", x, y, 0, "top", pads, (pitch * len(nets), 5.0))

    def resistor(self, value, x, y, a, b, side="top"):
        return self.chip("R", value, "0402", x, y, a, b, side)

    def stitch(self, step):
        """Ground vias on a loose grid between the parts."""
        y = 4.0
        while y < self.height - 3:
            x = 4.0
            while x < self.width - 3:
                if self.free(x, y, 0.6, 0.6, "top") and self.free(x, y, 0.6, 0.6, "bottom"):
                    self.vias.append((x, y, "GND"))
                x += step
            y += step

    def write(self, folder, stem):
        um = lambda v: int(round(v * 1000))
        lines = ["C  IPC-D-356A netlist of an invented board", f"P  JOB   {self.name}", "P  CODE  00", "P  UNITS CUST 1",
                 "P  TITLE invented for demonstration", "P  VER   IPC-D-356A", "P  IMAGE PRIMARY", "C"]
        for name, _v, _p, _x, _y, rotation, side, pads in self.parts:
            for pin, x, y, net, pw, ph, hole in pads:
                if rotation % 180:
                    pw, ph = ph, pw
                through = hole > 0
                access = "00" if through else ("01" if side == "top" else "02")
                drill = f"D{um(hole):04d}P" if through else " " * 6
                record = f"{'317' if through else '327'}{net:<14.14}   {name:<6.6}-{pin:<4.4} {drill}A{access}"
                record += f"X{um(x):+07d}Y{um(y):+07d}X{um(pw):04d}Y{um(ph):04d}R000 S0"
                lines.append(record)
        for x, y, net in self.vias:
            lines.append(f"317{net:<14.14}   {'VIA':<6}-{'':<4}MD0300PA00X{um(x):+07d}Y{um(y):+07d}X0600Y0000R000 S3")
        w, h = um(self.width), um(self.height)
        lines.append(f"389BOARD_EDGE      X+000000Y+000000 X{w:+07d}Y+000000 X{w:+07d}Y{h:+07d} X+000000Y{h:+07d}")
        lines.append("999")
        (folder / f"{stem}.356").write_text("\n".join(lines) + "\n")
        rows = ["Designator,Value,Package,X (mm),Y (mm),Rotation,Side"]
        rows += [f"{n},{v},{p},{x:.3f},{y:.3f},{r},{s}" for n, v, p, x, y, r, s, _ in self.parts]
        (folder / f"{stem}.centroid.csv").write_text("\n".join(rows) + "\n")
        print(f"{stem}: {len(self.parts)} parts, {sum(len(p[7]) for p in self.parts)} pads, {len(self.vias)} vias")


def converter(b, x, y, vin, vout, tag, out_caps, l_value="2u2"):
    """A synchronous step-down converter: controller, two switches, inductor, capacitors."""
    sw, hg, lg, fb = f"SW_{tag}", f"HG_{tag}", f"LG_{tag}", f"FB_{tag}"
    b.mosfet("NCH-30V", x, y + 3, sw, hg, vin)
    b.mosfet("NCH-30V", x, y - 3, "GND", lg, sw)
    b.ic("U", f"BUCK-CTRL-{tag}", "QFN-16", x - 7, y, (3.5, 3.5),
         [vin, hg, sw, lg, "GND", fb, f"EN_{tag}", f"PG_{tag}", f"BST_{tag}", f"COMP_{tag}", "GND", f"SS_{tag}", "PAD:GND"])
    b.chip("L", l_value, "IND-5x5", x + 7, y, sw, vout, rotation=0)
    b.caps(2, "10u 50V", "1206", x - 2, y + 8, vin, radius=2.5)
    b.chip("C", "100n", "0402", x - 7, y + 4, f"BST_{tag}", sw)
    b.resistor("10k", x - 8, y - 4, vout, fb)
    b.resistor("3k3", x - 6, y - 4, fb, "GND")
    b.chip("C", "2n2", "0402", x - 10, y - 3, f"COMP_{tag}", "GND")
    for i in range(out_caps):
        b.chip("C", "22u 10V", "0805", x + 12, y - 3 + 2.4 * i, vout, "GND", rotation=0)


def plotter():
    b = Board("Kelp Street chart plotter main board", 96.0, 68.0, 11)
    b.connector("DC-IN", 8, 62, ["VIN_12V", "GND", "VIN_12V"], 3.96)
    b.chip("F", "5A", "FUSE-1206", 17, 57, "VIN_12V", "VIN_F", rotation=0)
    b.chip("D", "CLAMP TVS 15V", "1210", 17, 62, "VIN_12V", "GND")
    b.mosfet("PCH-30V", 25, 60, "VIN_F", "IN_G", "VSYS_12V")
    b.resistor("100k", 30, 63, "IN_G", "GND")
    b.chip("R", "0R010", "1206", 33, 58, "VSYS_12V", "VMAIN_12V", rotation=0)
    b.chip("C", "47u 25V polymer", "2917", 41, 61, "VMAIN_12V", "GND", rotation=0)
    b.caps(3, "10u 50V", "1206", 34, 63, "VMAIN_12V", radius=2.0)
    converter(b, 18, 42, "VMAIN_12V", "+5V0", "5", 4, "4u7")
    converter(b, 50, 47, "VMAIN_12V", "+3V3", "3", 5, "3u3")
    converter(b, 78, 52, "+5V0", "+1V1_CORE", "C", 4, "0u47")
    cpu = (["+1V1_CORE", "GND"] * 6 + ["+3V3", "GND"] * 3 + ["+1V35_DDR", "GND"] * 3 + ["+1V8", "GND"] * 2 +
           [f"D{i}" for i in range(10)] + ["RST_N", "PG_3", "PG_C", "I2C_A", "I2C_B", "XI", "XO", "USB_P", "USB_N", "PAD:GND"])
    b.ic("U", "CPU SOC plotter", "BGA-17", 68, 28, (15, 15), cpu)
    b.caps(10, "100n", "0402", 68, 28, "+1V1_CORE", side="bottom", radius=4.5)
    b.caps(4, "22u", "0805", 68, 28, "+1V1_CORE", side="bottom", radius=8.0)
    b.caps(5, "100n", "0402", 68, 28, "+3V3", side="top", radius=10.5)
    b.caps(5, "100n", "0402", 67, 27, "+1V35_DDR", side="bottom", radius=10.5)
    b.ic("U", "DDR 4G", "BGA-9", 87, 27, (8, 11), ["+1V35_DDR", "GND"] * 5 + [f"D{i}" for i in range(10)] + ["PAD:GND"])
    b.caps(6, "100n", "0402", 87, 27, "+1V35_DDR", side="top", radius=7.5)
    b.ic("U", "LDO 1V35", "DFN-6", 87, 42, (3, 3), ["+3V3", "+3V3", "GND", "+1V35_DDR", "+1V35_DDR", "EN_D", "PAD:GND"])
    b.caps(2, "10u", "0603", 87, 42, "+1V35_DDR", radius=3.5)
    b.ic("U", "LDO 1V8", "DFN-6", 52, 30, (3, 3), ["+3V3", "+3V3", "GND", "+1V8", "+1V8", "EN_E", "PAD:GND"])
    b.caps(4, "1u", "0402", 52, 30, "+1V8", radius=3.2)
    b.ic("U", "FLASH 128M", "SOIC-8", 52, 20, (5, 4), ["CS_N", "D0", "D1", "GND", "D2", "D3", "+3V3", "+3V3"])
    b.caps(2, "100n", "0402", 52, 20, "+3V3", radius=4.0)
    b.chip("FB", "600R@100MHz", "0603", 36, 34, "+3V3", "+3V3_RF", rotation=0)
    b.ic("U", "GNSS receiver", "LGA-10", 36, 22, (10, 9), ["+3V3_RF", "GND", "RF_IN", "GND", "UART_T", "UART_R", "+3V3_RF", "PPS", "GND", "PAD:GND"])
    b.caps(4, "100n", "0402", 36, 22, "+3V3_RF", radius=7.0)
    b.caps(2, "4u7", "0603", 38, 31, "+3V3_RF", radius=2.5)
    b.chip("FB", "120R@100MHz", "0603", 20, 28, "+5V0", "+5V0_AUD", rotation=0)
    b.ic("U", "AUDIO AMP", "QFN-20", 15, 18, (5, 5), ["+5V0_AUD", "OUT_P", "GND", "OUT_N", "+5V0_AUD", "IN_P", "IN_N", "GND", "SD_N", "BYP", "+3V3", "GND", "PAD:GND"])
    b.caps(3, "1u", "0402", 15, 18, "+5V0_AUD", radius=4.8)
    b.chip("C", "100u 6V3 tantalum", "2917", 12, 26, "+5V0_AUD", "GND", rotation=0)
    b.ic("U", "CAN TRANSCEIVER", "SOIC-8", 28, 10, (5, 4), ["TXD", "GND", "+5V0", "RXD", "+3V3", "CANL", "CANH", "STB"])
    b.caps(2, "100n", "0402", 28, 10, "+5V0", radius=4.0)
    b.connector("NMEA-BUS", 14, 5, ["CANH", "CANL", "GND", "+5V0"])
    b.connector("DISPLAY", 50, 6, ["+5V0", "GND", "+3V3", "D4", "D5", "D6", "D7", "GND"])
    b.connector("USB", 84, 6, ["+5V0", "USB_N", "USB_P", "GND"])
    b.caps(3, "100n", "0402", 50, 12, "+3V3", radius=3.0)
    b.caps(3, "10u", "0603", 70, 10, "+5V0", radius=3.5)
    b.caps(4, "100n", "0402", 25, 20, "+3V3", side="bottom", radius=6.0)
    b.caps(3, "10u 50V", "1206", 30, 48, "VMAIN_12V", side="bottom", radius=5.0)
    b.caps(4, "1u", "0402", 60, 14, "+3V3", side="bottom", radius=5.0)
    for i in range(14):
        b.resistor("4k7", 40 + 3 * (i % 7), 13 + 2 * (i // 7), "+3V3", ["I2C_A", "I2C_B", "RST_N", "SD_N", "CS_N", "EN_D", "EN_E"][i % 7])
    b.stitch(6.0)
    return b


def greenhouse():
    b = Board("Kelp Street greenhouse controller", 84.0, 62.0, 23)
    b.connector("DC-IN", 8, 56, ["VIN_24V", "GND"], 5.08)
    b.chip("F", "2A", "FUSE-1206", 16, 52, "VIN_24V", "V24_F", rotation=0)
    b.chip("D", "CLAMP TVS 28V", "1210", 17, 57, "V24_F", "GND")
    b.chip("L", "10u", "IND-7x7", 26, 54, "V24_F", "+24V", rotation=0)
    b.chip("C", "100u 35V elko", "2917", 36, 57, "+24V", "GND", rotation=0)
    b.caps(4, "4u7 50V", "1206", 36, 50, "+24V", radius=3.5)
    converter(b, 20, 36, "+24V", "+12V", "M", 4, "15u")
    converter(b, 52, 38, "+24V", "+5V", "S", 4, "10u")
    b.ic("U", "LDO 3V3", "DFN-6", 70, 46, (3, 3), ["+5V", "+5V", "GND", "+3V3", "+3V3", "EN_A", "PAD:GND"])
    b.caps(3, "10u", "0603", 70, 46, "+3V3", radius=3.8)
    b.ic("U", "MICROCONTROLLER", "QFP-64", 62, 20, (10, 10), ["+3V3", "GND"] * 4 + [f"IO{i}" for i in range(20)] + ["SDA", "SCL", "NRST", "GND"])
    b.caps(6, "100n", "0402", 62, 20, "+3V3", radius=7.5)
    b.caps(4, "100n", "0402", 62, 20, "+3V3", side="bottom", radius=5.0)
    for i in range(4):
        x = 10 + 9 * i
        b.ic("U", "VALVE DRIVER", "SOIC-8", x, 20, (5, 4), [f"IO{i}", "GND", "+12V", f"VALVE{i}", f"VALVE{i}", "GND", "+12V", "+3V3"])
        b.caps(2, "1u 25V", "0603", x, 20, "+12V", radius=4.2)
        b.chip("D", "SCHOTTKY", "0805", x, 12, f"VALVE{i}", "+12V")
        b.connector("VALVE", x, 5, [f"VALVE{i}", "+12V"], 3.5)
    b.ic("U", "RS485 TRANSCEIVER", "SOIC-8", 74, 8, (5, 4), ["IO5", "IO6", "IO7", "GND", "BUS_A", "BUS_B", "+5V", "+5V"])
    b.caps(2, "100n", "0402", 74, 8, "+5V", radius=4.0)
    b.connector("SENSOR", 60, 5, ["+5V", "SDA", "SCL", "GND"])
    b.chip("FB", "220R@100MHz", "0603", 52, 12, "+5V", "+5V_SENS", rotation=0)
    b.caps(3, "1u", "0402", 54, 9, "+5V_SENS", radius=3.0)
    b.caps(3, "10u", "0805", 44, 26, "+12V", side="bottom", radius=4.0)
    b.caps(3, "4u7", "0603", 72, 34, "+5V", radius=3.5)
    for i in range(8):
        b.resistor("10k", 46 + 2.5 * (i % 4), 28 + 2 * (i // 4), "+3V3", f"IO{i}")
    b.stitch(6.0)
    return b


if __name__ == "__main__":
    target = pathlib.Path(sys.argv[1] if len(sys.argv) > 1 else pathlib.Path(__file__).parent / "boards")
    target.mkdir(parents=True, exist_ok=True)
    plotter().write(target, "chart-plotter")
    greenhouse().write(target, "greenhouse-controller")
