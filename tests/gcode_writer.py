"""A small writer of G-code of our own: towers and boxes whose layers, lengths and times are known."""

import math


class Writer:
    """Lines of a file, in millimetres, absolute, filament relative; unless said otherwise."""

    def __init__(self, ending="\n", unit=1.0, e_relative=True, relative=False):
        self.lines, self.ending, self.unit, self.e_relative, self.relative = [], ending, unit, e_relative, relative
        self.at, self.e = [0.0, 0.0, 0.0], 0.0
        self.say("G21" if unit == 1 else "G20", "G91" if relative else "G90", "M83" if e_relative else "M82", "G92 E0")

    def say(self, *lines):
        self.lines += lines

    def go(self, x=None, y=None, z=None, e=0.0, feed=None, command="G1", more=""):
        words = [command]
        for i, (name, to) in enumerate(zip("XYZ", (x, y, z), strict=True)):
            if to is not None:
                words.append(f"{name}{((to - self.at[i]) if self.relative else to) / self.unit:.6f}")
                self.at[i] = to
        if e:
            self.e += e
            words.append(f"E{(e if self.e_relative else self.e) / self.unit:.6f}")
        if feed is not None:
            words.append(f"F{feed * 60 / self.unit:.3f}")
        self.say(" ".join(words) + more)

    def box(self, x, y, wide, deep, feed, per_mm=0.03):
        """A closed outline, from its lower left corner."""
        self.go(x, y, feed=100)
        for cx, cy, length in ((x + wide, y, wide), (x + wide, y + deep, deep), (x, y + deep, wide), (x, y, deep)):
            self.go(cx, cy, e=length * per_mm, feed=feed)

    @property
    def bytes(self):
        return (self.ending.join(self.lines) + self.ending).encode()


def tower(layers=217, height=0.2, feed=30, heat=(240, 230), ending="\n", **more):
    """Boxes on top of one another; the nozzle is set twice, as programs do: for the first layers and for the rest."""
    w = Writer(ending, **more)
    w.say(f"M104 S{heat[0]}", f"M109 S{heat[0]}", "M106 S51")
    for n in range(1, layers + 1):
        w.go(z=round(n * height, 4), feed=10)
        if n == 3:
            w.say(f"M104 S{heat[1]} ; the rest")
        w.box(0, 0, 20, 20, feed(n) if callable(feed) else feed)
        w.box(0.5, 0.5, 19, 19, 40)
    w.say("M107", "M104 S0", "M140 S0")
    return w.bytes


def independent_time(moves, corner, acceleration):
    """A plain planner, one move after another: passes repeated until no speed changes.

    `moves`: (dx, dy, dz, speed); speeds at a corner by the same law, written with angles instead of halves of cosines.
    """
    moves = [m for m in moves if any(m[:3])]
    lengths = [math.dist((0, 0, 0), m[:3]) for m in moves]
    joints = [0.0]
    for (a, la), (b, lb) in zip(zip(moves, lengths, strict=True), zip(moves[1:], lengths[1:], strict=True), strict=False):
        turn = math.acos(max(-1.0, min(1.0, sum(p * q for p, q in zip(a[:3], b[:3], strict=True)) / la / lb)))
        s = math.cos(turn / 2)
        limit = math.inf if s > 1 - 1e-9 else corner * math.sqrt((math.sqrt(2) - 1) * s / (1 - s))
        joints.append(min(limit, a[3], b[3]))
    joints.append(0.0)
    changed = True
    while changed:
        changed = False
        for i, length in enumerate(lengths):
            for here, there in ((i, i + 1), (i + 1, i)):
                reached = math.sqrt(joints[here] ** 2 + 2 * acceleration * length)
                if joints[there] > reached + 1e-12:
                    joints[there], changed = reached, True
    total = 0.0
    for i, (length, move) in enumerate(zip(lengths, moves, strict=True)):
        v0, v1, top = joints[i], joints[i + 1], move[3]
        up, down = (top**2 - v0**2) / (2 * acceleration), (top**2 - v1**2) / (2 * acceleration)
        if up + down <= length:
            total += (top - v0) / acceleration + (top - v1) / acceleration + (length - up - down) / top
        else:
            peak = math.sqrt((v0**2 + v1**2) / 2 + acceleration * length)
            total += (2 * peak - v0 - v1) / acceleration
    return total
