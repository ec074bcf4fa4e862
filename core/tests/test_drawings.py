"""Balloons and numbers by position, against plain geometry written here: segments by exact fractions, rows by hand."""

import math
import random
import unittest
from fractions import Fraction

from scipy.optimize import linear_sum_assignment
from tally_core.drawings.balloons import Box, crossings, place_balloons, slots_around
from tally_core.drawings.by_position import Group, in_rows, number_by_position
from tally_core.drawings.clipping import within
from tally_core.drawings.hatching import hatched, manner_of
from tally_core.drawings.room import room_for

PAPER = Box(0, 0, 420, 297)


def cross(a, b, c, d) -> bool:
    """Whether two segments cross within both, by exact arithmetic and the parameters of their meeting (any text on linear algebra)."""
    (ax, ay), (bx, by), (cx, cy), (dx, dy) = [(Fraction(x), Fraction(y)) for x, y in (a, b, c, d)]
    det = (bx - ax) * (dy - cy) - (by - ay) * (dx - cx)
    if det == 0:
        return False
    s = ((cx - ax) * (dy - cy) - (cy - ay) * (dx - cx)) / det
    t = ((cx - ax) * (by - ay) - (cy - ay) * (bx - ax)) / det
    return 0 < s < 1 and 0 < t < 1


class Hatching(unittest.TestCase):
    def test_lines_times_their_distance_come_to_the_area(self) -> None:
        """Cavalieri: lines that lie close fill the area between an outline and its holes, whatever their angle; circles as polygons of 720 sides."""

        def ring(x: float, y: float, r: float, way: int = 1) -> list[float]:
            return [v for i in range(720) for v in (x + r * math.cos(way * math.tau * i / 720), y + r * math.sin(way * math.tau * i / 720))]

        plate = [[0, 0, 60, 0, 60, 40, 0, 40], ring(20, 20, 8), ring(42, 18, 5, -1)]
        area = 60 * 40 - math.pi * 64 - math.pi * 25
        for angle in (0, 17, 45, 90, 135):
            lines = hatched(plate, angle, 0.05)
            long = sum(math.hypot(u - x, v - y) for x, y, u, v in lines)
            self.assertAlmostEqual(long * 0.05 / area, 1, places=2)
            for x, y, u, v in lines[::40]:
                self.assertAlmostEqual(math.cos(math.atan2(v - y, u - x) - math.radians(angle)) ** 2, 1, places=4)
                # The middle of a line lies in the plate and in neither hole.
                mx, my = (x + u) / 2, (y + v) / 2
                self.assertTrue(0 <= mx <= 60 and 0 <= my <= 40)
                self.assertTrue(math.hypot(mx - 20, my - 20) > 7.9 and math.hypot(mx - 42, my - 18) > 4.9)

    def test_faces_of_one_part_match_and_neighbours_differ(self) -> None:
        left, both = hatched([[0, 0, 5, 0, 5, 9, 0, 9]], 0, 2), hatched([[0, 0, 5, 0, 5, 9, 0, 9], [7, 1, 9, 1, 9, 9, 7, 9]], 0, 2)
        self.assertEqual(left, [[0, y, 5, y] for y in (2, 4, 6, 8)])
        self.assertEqual(both, [line for y in (2, 4, 6, 8) for line in ([0, y, 5, y], [7, y, 9, y])])
        self.assertEqual(len({manner_of(n) for n in range(6)}), 6)
        self.assertTrue(all(manner_of(n)[0] != manner_of(n + 1)[0] for n in range(20)))
        self.assertEqual((hatched([], 45, 2), hatched([[0, 0, 1, 0, 1, 1]], 45, 1e-9)), ([], []))
        # A point that lies on a line of the grid is met once: a triangle with its tip on it, and one that stands on it.
        self.assertEqual(hatched([[0, 0, 4, 0, 2, 2]], 0, 1), [[1, 1, 3, 1]])
        self.assertEqual(hatched([[0, 4, 4, 4, 2, 2]], 0, 1), [[1, 3, 3, 3]])


class Clipping(unittest.TestCase):
    def test_what_is_kept_is_what_lies_within(self) -> None:
        """Against points along each line, one by one: of those within the box each is on what is kept, and nothing else is."""
        dice = random.Random(8)
        box = Box(-2, 1, 11, 7)
        for _ in range(200):
            line = [dice.uniform(-12, 18) for _ in range(2 * dice.randint(2, 5))]
            kept = within([line], box)
            inside = 0.0
            for i in range(0, len(line) - 2, 2):
                (x, y), (u, v) = line[i : i + 2], line[i + 2 : i + 4]
                shares = [(n + 0.5) / 2000 for n in range(2000)]
                inner = sum(-2 <= x + t * (u - x) <= 9 and 1 <= y + t * (v - y) <= 8 for t in shares)
                inside += inner / 2000 * math.hypot(u - x, v - y)
            long = sum(math.hypot(p[i + 2] - p[i], p[i + 3] - p[i + 1]) for p in kept for i in range(0, len(p) - 2, 2))
            self.assertAlmostEqual(long, inside, delta=0.1)
            for piece in kept:
                self.assertTrue(all(-2 - 1e-9 <= x <= 9 + 1e-9 for x in piece[::2]) and all(1 - 1e-9 <= y <= 8 + 1e-9 for y in piece[1::2]))

    def test_edges_of_the_box(self) -> None:
        box = Box(0, 0, 10, 10)
        # Along a side it stays; past a corner, or touching one, nothing does; out and back in, it is two.
        self.assertEqual(within([[0, 0, 10, 0]], box), [[0, 0, 10, 0]])
        self.assertEqual(within([[-5, 5, 5, -6]], box), [])
        self.assertEqual(within([[-5, 5, 5, -5]], box), [])
        self.assertEqual(within([[11, 0, 11, 10], [0, 11, 10, 11], [-1, 2, -1, 3], [2, -1, 3, -1]], box), [])
        self.assertEqual(within([[2, 2, 12, 2, 12, 4, 2, 4]], box), [[2, 2, 10, 2], [10, 4, 2, 4]])
        whole = [1, 1, 2, 2, 3, 1, 4, 2, 5, 1]
        self.assertEqual(within([whole], box), [whole], "whole lines stay one")


class Room(unittest.TestCase):
    def test_what_is_free_is_found_and_keeps_its_distance(self) -> None:
        """Against every place of a grid of five millimetres tried, the highest first, by plain comparison of sides."""
        dice = random.Random(4)
        full = 0
        for _ in range(60):
            paper = Box(20, 10, 200, 150)
            taken = [
                Box(dice.uniform(0, 200), dice.uniform(0, 140), dice.uniform(5, 90), dice.uniform(5, 90)) for _ in range(dice.randint(0, 5))
            ]
            width, height = dice.uniform(10, 120), dice.uniform(10, 100)
            wanted = None
            for down in range(0, 151, 5):
                for across in range(0, 201, 5):
                    x, y = 20 + across, 10 + down
                    apart = all(
                        x >= b.x + b.width + 8 or x + width + 8 <= b.x or y >= b.y + b.height + 8 or y + height + 8 <= b.y for b in taken
                    )
                    if wanted is None and apart and x + width <= 220 and y + height <= 160:
                        wanted = (float(x), float(y))
            found = room_for(width, height, paper, taken)
            self.assertEqual(found, wanted)
            full += found is None
        self.assertTrue(3 < full < 50, full)
        self.assertEqual(room_for(200, 150, Box(20, 10, 200, 150), []), (20, 10))
        self.assertIsNone(room_for(200.1, 10, Box(20, 10, 200, 150), []))


class Balloons(unittest.TestCase):
    def test_no_leader_crosses_another_and_none_covers_the_view(self) -> None:
        dice = random.Random(17)
        for count in (1, 2, 9, 40):
            for _ in range(12):
                box = Box(dice.uniform(80, 160), dice.uniform(70, 110), dice.uniform(20, 140), dice.uniform(20, 90))
                points = [(box.x + dice.random() * box.width, box.y + dice.random() * box.height) for _ in range(count)]
                placed = place_balloons(points, box, 4.0, PAPER)
                leaders = list(zip(points, placed, strict=True))
                crossed = [(j, i) for i in range(count) for j in range(i) if cross(*leaders[i], *leaders[j])]
                self.assertEqual(crossed, [])
                self.assertEqual(crossings(leaders), [])
                self.assertEqual(len(set(placed)), count)
                for i, (x, y) in enumerate(placed):
                    self.assertTrue(4 <= x <= 416 and 4 <= y <= 293)
                    outside = x <= box.x - 4 or x >= box.x + box.width + 4 or y <= box.y - 4 or y >= box.y + box.height + 4
                    self.assertTrue(outside)
                    for u, v in placed[:i]:
                        self.assertGreaterEqual((x - u) ** 2 + (y - v) ** 2, 7.99**2, "two balloons overlap")

    def test_many_are_tied_about_as_briefly_as_can_be(self) -> None:
        """Halved by lines: still without a crossing, each in a place of its own, within 4 percent of the least total length; where all lie
        in one corner no line has room for its half, and it is the least."""
        dice = random.Random(31)
        box, paper = Box(120, 90, 300, 180), Box(0, 0, 594, 420)
        for corner, most in ((1.0, 1.04), (0.05, 1.0 + 1e-9)):
            points = [(box.x + dice.random() * box.width * corner, box.y + dice.random() * box.height * corner) for _ in range(140)]
            placed = place_balloons(points, box, 5, paper)
            self.assertEqual((crossings(list(zip(points, placed, strict=True))), len(set(placed))), ([], 140))
            self.assertFalse(set(placed) & set(points), "each has a place around the view")
            each = [[math.dist(p, q) for q in slots_around(box, 5, 140, paper)] for p in points]
            rows, columns = linear_sum_assignment(each)
            least = sum(each[i][j] for i, j in zip(rows, columns, strict=True))
            self.assertLessEqual(sum(map(math.dist, points, placed)), most * least)

    def test_what_stands_is_not_stood_upon(self) -> None:
        box = Box(150, 100, 60, 40)
        taken = slots_around(box, 4, 1, PAPER)[:5]
        placed = place_balloons([(180, 120)] * 6, box, 4, PAPER, taken)
        for x, y in placed:
            self.assertTrue(all((x - u) ** 2 + (y - v) ** 2 >= 9.5**2 for u, v in taken))

    def test_there_is_room_beside_many_that_stand(self) -> None:
        box = Box(150, 100, 60, 40)
        taken = slots_around(box, 4, 1, PAPER)[:5]
        placed = place_balloons([(170, 120), (180, 120), (190, 120)], box, 4, PAPER, taken)
        self.assertTrue(all(x < 150 or x > 210 or y < 100 or y > 140 for x, y in placed), placed)

    def test_a_view_near_the_edges_has_no_balloon_beyond_them(self) -> None:
        """Of a ring 8.8 away around a view 10 from two edges only what lies whole on the paper stays: none above, none to the left."""
        box = Box(10, 10, 60, 40)
        for x, y in slots_around(box, 4, 60, PAPER):
            self.assertTrue(x >= 4 and y >= 4, (x, y))
        low = Box(PAPER.width - 70, PAPER.height - 50, 60, 40)
        for x, y in slots_around(low, 4, 60, PAPER):
            self.assertTrue(x <= PAPER.width - 4 and y <= PAPER.height - 4, (x, y))
        # 2.4 radii keep two apart: one that stands there already takes its place and no other.
        free = slots_around(Box(150, 100, 60, 40), 4, 1, PAPER)
        placed = place_balloons([(180, 120)] * (len(free) - 1), Box(150, 100, 60, 40), 4, PAPER, [free[0]])
        self.assertEqual(sorted(placed), sorted(free[1:]))

    def test_what_is_blocked_is_not_covered(self) -> None:
        title = Box(230, 150, 180, 137)
        placed = place_balloons([(200, 130)] * 12, Box(150, 100, 80, 60), 4, PAPER, blocked=[title])
        for x, y in placed:
            self.assertTrue(x <= title.x - 4 or y <= title.y - 4)

    def test_a_paper_without_room(self) -> None:
        full = Box(0, 0, 420, 297)
        self.assertEqual(place_balloons([(5.0, 6.0)], full, 4, PAPER), [(5.0, 6.0)])
        self.assertEqual(place_balloons([], Box(1, 1, 1, 1), 4, PAPER), [])

    def test_crossing_is_found(self) -> None:
        self.assertEqual(crossings([((0, 0), (2, 2)), ((0, 2), (2, 0)), ((5, 5), (6, 6))]), [(0, 1)])
        self.assertEqual(crossings([((0, 0), (2, 2)), ((2, 2), (3, 0))]), [])


class ByPosition(unittest.TestCase):
    #: Two rows that wobble by less than the tolerance, and one below.
    POINTS = {"a": (30, 10), "b": (10, 12), "c": (20, 9), "d": (15, 40), "e": (5, 43), "f": (1, 90)}

    def test_rows_within_a_tolerance_then_along_the_row(self) -> None:
        self.assertEqual(in_rows(self.POINTS, 5), ["b", "c", "a", "e", "d", "f"])
        self.assertEqual(in_rows(self.POINTS, 5, upward=True), ["f", "e", "d", "b", "c", "a"])
        # Nothing is in one row with what it does not stand beside.
        self.assertEqual(in_rows(self.POINTS, 0.5), ["c", "a", "b", "d", "e", "f"])

    def test_groups_count_for_themselves_and_locked_numbers_stay(self) -> None:
        groups = {"": Group(10, 10), "fasteners": Group(101, 1, upward=True)}
        group_of = {"a": "fasteners", "d": "fasteners", "f": "unheard of"}
        found = number_by_position(self.POINTS, group_of, groups, {"c": 20, "x": 7}, 5, behind=["glue", "c", "b"], taken=[102])
        # b 10, c keeps 20, e goes past it, f counts with what is in no group, and glue stands nowhere.
        self.assertEqual(found, {"b": 10, "e": 30, "f": 40, "glue": 50, "d": 101, "a": 103, "c": 20})

    def test_every_number_is_given_once(self) -> None:
        dice = random.Random(3)
        for _ in range(50):
            points = {n: (dice.uniform(0, 99), dice.uniform(0, 99)) for n in range(30)}
            locked = {n: dice.choice(range(10, 200, 10)) for n in dice.sample(range(30), 1)}
            groups = {"": Group(10, 10), "g": Group(dice.choice((5, 10, 100)), dice.choice((1, 5)))}
            found = number_by_position(points, {n: "g" for n in range(0, 30, 3)}, groups, locked, 8)
            self.assertEqual((len(found), len(set(found.values()))), (30, 30))
            self.assertTrue(all(found[n] == number for n, number in locked.items()))


if __name__ == "__main__":
    unittest.main()
