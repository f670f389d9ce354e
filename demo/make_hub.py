#!/usr/bin/env python3
"""Draws the wind sensor hub, an invented board with its copper: a +5V pour on both outer layers, cut by slots, over
a ground plane, and a small +3V3 rail. Writes it as `*.board.json`.

    demo/make_hub.py OUTPUT_FILE
"""
import json
import sys

W, H = 62.0, 38.0


def rect(x, y, w, h):
    return [[x, y], [x + w, y], [x + w, y + h], [x, y + h]]


def hole(x, y, w, h):
    return [[x, y], [x, y + h], [x + w, y + h], [x + w, y]]


def part(name, cls, package, value, x, y, body, pads, side="top", rotation=0):
    return {"designator": name, "value": value, "package": package, "class": cls, "side": side, "centre_mm": [x, y],
            "rotation_deg": rotation, "body_mm": body,
            "pads": [{"pin": pin, "at_mm": [round(x + dx, 3), round(y + dy, 3)], "net": net, "side": side, "size_mm": size,
                      **({"through": True, "hole_mm": 0.9} if through else {})}
                     for pin, dx, dy, net, size, through in pads]}


def chip(name, cls, value, x, y, a, b, side="top", package="0603"):
    length, width = {"0402": (1.0, 0.5), "0603": (1.6, 0.8), "1206": (3.2, 1.6)}[package]
    land = [round(0.45 * length + 0.15, 2), width]
    flip = 1 if side == "top" else -1
    return part(name, cls, package, value, x, y, [length, width],
                [("1", -flip * length / 2, 0, a, land, False), ("2", flip * length / 2, 0, b, land, False)], side)


parts = [part("J1", "connector", "CON-2", "", 5, 6, [6, 5], [("1", -1.5, 0, "VIN_12V", [1.6, 1.6], True), ("2", 1.5, 0, "GND", [1.6, 1.6], True)]),
         chip("F1", "fuse", "1A", 10, 12, "VIN_12V", "VIN_F", package="1206"),
         chip("C1", "ceramic capacitor", "10u", 6, 18, "VIN_F", "GND", package="1206"),
         part("U1", "regulator", "SO-8", "", 13, 22, [3.9, 4.9],
              [(str(i + 1), -2.7, 1.905 - 1.27 * i, ["VIN_F", "GND", "GND", "GND"][i], [1.5, 0.7], False) for i in range(4)] +
              [(str(i + 5), 2.7, -1.905 + 1.27 * i, ["SW_5V", "SW_5V", "FB", "FB"][i], [1.5, 0.7], False) for i in range(4)]),
         part("L1", "inductor", "IND-5", "4u7", 20, 16, [5.2, 5.2], [("1", -2.4, 0, "SW_5V", [1.6, 4.4], False), ("2", 2.4, 0, "+5V", [1.6, 4.4], False)])]
spots = [(26, 8), (33, 6), (41, 9), (50, 5), (57, 9), (28, 17), (36, 16), (44, 19), (52, 16), (58, 20), (27, 27), (34, 29)]
for i, (x, y) in enumerate(spots):
    parts.append(chip(f"C{i + 2}", "ceramic capacitor", "1u", x, y, "+5V", "GND"))
for i, (x, y) in enumerate([(31, 12), (47, 13), (55, 13)]):
    parts.append(chip(f"C{i + 20}", "ceramic capacitor", "100n", x, y, "+5V", "GND", "bottom"))
parts += [part("U2", "ic", "SO-8", "", 40, 32, [3.9, 4.9],
               [(str(i + 1), -2.7, 1.905 - 1.27 * i, ["+5V", "GND", "IN", "GND"][i], [1.5, 0.7], False) for i in range(4)] +
               [(str(i + 5), 2.7, -1.905 + 1.27 * i, ["+3V3", "GND", "OUT", "GND"][i], [1.5, 0.7], False) for i in range(4)]),
          chip("C30", "ceramic capacitor", "1u", 47, 32, "+3V3", "GND"), chip("C31", "ceramic capacitor", "1u", 53, 33, "+3V3", "GND"),
          part("J2", "connector", "CON-4", "", 57, 28, [9, 4], [(str(i + 1), 2.0 * i - 3, 0, ["+5V", "GND", "IN", "OUT"][i], [1.2, 1.8], False) for i in range(4)])]

vias = [{"at_mm": [x, y], "hole_mm": 0.3, "net": "+5V"} for x, y in [(29, 11), (45, 12), (53, 12), (30, 14), (48, 15), (56, 14)]]
ground = [{"at_mm": [p["pads"][k]["at_mm"][0], p["pads"][k]["at_mm"][1] - 0.9], "hole_mm": 0.3, "net": "GND"}
          for p in parts for k in range(len(p["pads"])) if p["pads"][k]["net"] == "GND" and p["side"] == "top" and p["designator"][0] != "J"]
top = [{"net": "+5V", "outline_mm": rect(21.6, 4, 38.6, 26), "holes_mm": [hole(30, 4.8, 0.7, 19), hole(39, 10, 0.7, 19.2), hole(47.5, 4.8, 0.7, 15)]},
       {"net": "+5V", "outline_mm": rect(36, 30, 2.6, 4.5)}, {"net": "+5V", "outline_mm": rect(53.2, 26.5, 1.8, 3.5)},
       {"net": "VIN_12V", "outline_mm": rect(2.5, 4.5, 1.9, 8.5)}, {"net": "VIN_12V", "outline_mm": rect(2.5, 11, 7, 2)},
       {"net": "VIN_F", "outline_mm": rect(10.6, 11, 2, 2)}, {"net": "VIN_F", "outline_mm": rect(3.6, 13, 9, 1.5)},
       {"net": "VIN_F", "outline_mm": rect(3.6, 13, 1.7, 12)}, {"net": "VIN_F", "outline_mm": rect(3.6, 23, 8, 2)},
       {"net": "SW_5V", "outline_mm": rect(14.6, 14, 4, 8)},
       {"net": "+3V3", "outline_mm": rect(41.8, 29.5, 12, 1)}, {"net": "+3V3", "outline_mm": rect(45.6, 29.5, 1.2, 3)},
       {"net": "+3V3", "outline_mm": rect(51.6, 29.5, 1.2, 4)}]
for p in parts:  # pads that lie in the pour of another net are cut free of it
    for pad in p["pads"]:
        if pad["net"] == "GND" and p["side"] == "top":
            x, y = pad["at_mm"]
            w, h = pad["size_mm"]
            if 22 < x < 60 and 4.5 < y < 29.5:
                top[0]["holes_mm"].append(hole(x - w / 2 - 0.2, y - h / 2 - 1.3, w + 0.4, h + 1.5))
            top.append({"net": "GND", "outline_mm": rect(x - w / 2, y - h / 2 - 1.1, w, h + 1.1)})
bottom = [{"net": "+5V", "outline_mm": rect(27, 10, 31, 6)}, {"net": "GND", "outline_mm": rect(0.5, 0.5, W - 1, 8.9)},
          {"net": "GND", "outline_mm": rect(0.5, 16.6, W - 1, H - 17.1)}, {"net": "GND", "outline_mm": rect(0.5, 9, 25.9, 8)},
          {"net": "GND", "outline_mm": rect(58.6, 9, 2.9, 8)}]
for p in parts:
    for pad in p["pads"]:
        if pad["net"] == "GND" and p["side"] == "bottom":
            x, y = pad["at_mm"]
            bottom[0].setdefault("holes_mm", []).append(hole(x - 0.7, 10.3, 1.4, y - 9.5))
            bottom.append({"net": "GND", "outline_mm": rect(x - 0.45, 9, 0.9, y - 8.6)})
nets = [{"name": n, **({"ground": True} if n == "GND" else {}), **({"nominal_volts": v} if v else {})}
        for n, v in [("GND", 0), ("VIN_12V", 12), ("VIN_F", 12), ("SW_5V", 0), ("FB", 0), ("+5V", 5), ("+3V3", 3.3), ("IN", 0), ("OUT", 0)]]
board = {"format": "ustor-board/1", "name": "Wind sensor hub", "thickness_mm": 1.6, "copper_layers": 2, "outline_mm": rect(0, 0, W, H),
         "nets": nets, "parts": parts, "vias": vias + ground,
         "copper": [{"name": "top", "thickness_mm": 0.035, "pieces": top}, {"name": "bottom", "thickness_mm": 0.035, "pieces": bottom}]}
with open(sys.argv[1], "w", encoding="utf-8") as out:
    json.dump(board, out, indent=None, separators=(",", ":"))
    out.write("\n")
