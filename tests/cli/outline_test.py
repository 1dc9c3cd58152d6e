# Outlines that palio did not draw: involutes by their textbook formula, written by another library as lines in any order,
# polylines and splines; palio has to find out what they are.
import json
import math
import os
import random
import subprocess
import sys
import tempfile
import unittest

import ezdxf

PALIO = sys.argv[1]


def gear(z, m, degrees, x, addendum=1.0, dedendum=1.25, points=12, noise=0.0, scale=1.0):
    """Corners of an outline: involute flanks, tips and roots on circles, a step between flank and root."""
    a = math.radians(degrees)
    r, inv = m * z / 2, lambda t: math.tan(t) - t
    base, tip, root = r * math.cos(a), r + m * (addendum + x), r - m * (dedendum - x)
    half = (math.pi / 2 + 2 * x * math.tan(a)) / z + inv(a)
    start = max(base * 1.0005, root + 0.25 * m)
    flank = [(start + (tip - start) * i / points, 0) for i in range(points + 1)]
    flank = [(R, half - inv(math.acos(base / R))) for R, _ in flank]
    tooth = [(root, -math.pi / z), (root, -flank[0][1] - 0.02 / z)] + [(R, -h) for R, h in flank]
    tooth += [(tip, flank[-1][1] * (j / 2 - 1)) for j in (1, 2, 3)] + [(R, h) for R, h in reversed(flank)]
    tooth += [(root, flank[0][1] + 0.02 / z)]
    return [(scale * R * math.cos(2 * math.pi * k / z + h) + 11 + random.gauss(0, noise),
             scale * R * math.sin(2 * math.pi * k / z + h) - 4 + random.gauss(0, noise))
            for k in range(z) for R, h in tooth]


def as_lines(points, path):
    drawing = ezdxf.new('R12')
    order = list(range(len(points)))
    random.shuffle(order)
    for i in order:
        ends = [points[i], points[(i + 1) % len(points)]]
        random.shuffle(ends)
        drawing.modelspace().add_line(*ends)
    drawing.saveas(path)


def as_polyline(points, path):
    drawing = ezdxf.new('R2010')
    drawing.header['$INSUNITS'] = 4
    drawing.modelspace().add_lwpolyline(points, close=True)
    drawing.saveas(path)


def as_old_polyline(points, path):
    drawing = ezdxf.new('R12')
    drawing.modelspace().add_polyline2d(points, close=True)
    drawing.saveas(path)


def as_splines(points, path):
    """Degree 1: a spline that is the polyline. The library says metres where nobody said anything."""
    drawing = ezdxf.new('R2010')
    for i in range(0, len(points), 7):
        part = [points[(i + k) % len(points)] for k in range(min(8, len(points) - i + 1))]
        spline = drawing.modelspace().add_spline(degree=1)
        spline.control_points = [(x, y, 0) for x, y in part]
        spline.knots = [0.0] + [float(k) for k in range(len(part))] + [float(len(part) - 1)]
    drawing.saveas(path)


def as_svg(points, path):
    with open(path, 'w') as f:
        f.write('<svg xmlns="http://www.w3.org/2000/svg" width="9in" viewBox="0 0 228.6 228.6"><g transform="scale(1 -1)">'
                '<path d="M' + ' '.join(f'{x!r} {y!r}' for x, y in points) + 'z"/></g></svg>')


class Outlines(unittest.TestCase):
    def setUp(self):
        random.seed(7)
        self.folder = tempfile.TemporaryDirectory()

    def tearDown(self):
        self.folder.cleanup()

    def recovered(self, draw, points, suffix='dxf'):
        path = os.path.join(self.folder.name, 'other.' + suffix)
        draw(points, path)
        run = subprocess.run([PALIO, 'recover', path, '--json'], capture_output=True, text=True, timeout=100)
        self.assertEqual(run.returncode, 0, run.stderr)
        return json.loads(run.stdout)

    def check(self, told, z, m, degrees, x, within=1e-4):
        value = lambda key: told['values']['gear.recovered.' + key]['value']
        self.assertEqual(value('teeth'), z)
        self.assertAlmostEqual(value('module') / m, 1, delta=within)
        self.assertAlmostEqual(value('pressure_angle'), degrees, delta=100 * within)
        self.assertAlmostEqual(value('profile_shift'), x, delta=20 * within)

    def test_every_way_to_draw_it(self):
        for draw, suffix in ((as_lines, 'dxf'), (as_polyline, 'dxf'), (as_old_polyline, 'dxf'), (as_splines, 'dxf'), (as_svg, 'svg')):
            with self.subTest(draw.__name__):
                told = self.recovered(draw, gear(30, 2, 20, 0.25), suffix)
                self.check(told, 30, 2, 20, 0.25)
                self.assertEqual(told['flanks']['form'], 'involute')
                self.assertAlmostEqual(told['flanks']['base_diameter'], 60 * math.cos(math.radians(20)), delta=1e-6)

    def test_systems(self):
        for case in ((18, 25.4 / 16, 14.5, 0), (12, 3, 25, 0.3), (97, 0.8, 20, -0.2)):
            with self.subTest(case):
                self.check(self.recovered(as_polyline, gear(*case)), *case)

    def test_noise_and_scale(self):
        told = self.recovered(as_polyline, gear(30, 2, 20, 0.25, noise=0.01))
        self.check(told, 30, 2, 20, 0.25, within=1e-3)
        flanks, truth = told['flanks'], 60 * math.cos(math.radians(20))
        doubt = told['values']['gear.recovered.module']['uncertainty'] * 30 * math.cos(math.radians(20))
        self.assertLess(abs(flanks['base_diameter'] - truth), 4 * doubt)
        small = self.recovered(as_polyline, gear(40, 1.5, 20, 0, scale=0.995))
        self.assertEqual(small['snaps'][0]['to'], 1.5)

    def test_no_gear(self):
        path = os.path.join(self.folder.name, 'star.dxf')
        as_polyline([(r * math.cos(math.pi * k / 3), r * math.sin(math.pi * k / 3)) for k in range(6) for r in (10,)], path)
        run = subprocess.run([PALIO, 'recover', path], capture_output=True, text=True, timeout=60)
        self.assertEqual(run.returncode, 1)
        self.assertIn('teeth', run.stderr)


if __name__ == '__main__':
    unittest.main(argv=[sys.argv[0]] + sys.argv[2:])
