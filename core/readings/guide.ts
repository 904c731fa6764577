type Point = readonly [number, number];

const AREA = (a: Point, b: Point, c: Point): number => Math.abs((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])) / 2;

/** Four points in the order of a frame's corners, top left first and then clockwise, whatever order they come in. */
export function inCornerOrder<T>(list: readonly T[], at: (of: T) => Point): T[] {
  const [cx, cy] = [0, 1].map((k) => list.reduce((s, p) => s + at(p)[k]!, 0) / Math.max(1, list.length)) as [number, number];
  // With y down the angle grows clockwise; the first is the one that lies farthest to the upper left.
  const around = [...list].sort((a, b) => Math.atan2(at(a)[1] - cy, at(a)[0] - cx) - Math.atan2(at(b)[1] - cy, at(b)[0] - cx));
  const upperLeft = around.reduce((best, p, i) => (at(p)[0] + at(p)[1] < at(around[best]!)[0] + at(around[best]!)[1] ? i : best), 0);
  return [...around.slice(upperLeft), ...around.slice(0, upperLeft)];
}

/** What is wrong with four points that shall hold a perspective: two too near each other, or three nearly on a line; null if nothing is. */
export function fourPointTrouble(points: readonly Point[]): string | null {
  const xs = points.map((p) => p[0]);
  const ys = points.map((p) => p[1]);
  const span = Math.hypot(Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys));
  for (let i = 0; i < points.length; i++) {
    for (let j = 0; j < i; j++) {
      const d = Math.hypot(points[i]![0] - points[j]![0], points[i]![1] - points[j]![1]);
      if (d < 0.12 * span) return `Points ${j + 1} and ${i + 1} are too near each other to hold a perspective: move them apart.`;
    }
  }
  for (let k = 0; k < points.length; k++) {
    const [a, b, c] = points.filter((_, i) => i !== k) as unknown as [Point, Point, Point];
    const longest = Math.max(
      Math.hypot(a[0] - b[0], a[1] - b[1]),
      Math.hypot(b[0] - c[0], b[1] - c[1]),
      Math.hypot(a[0] - c[0], a[1] - c[1]),
    );
    if (AREA(a, b, c) < 0.04 * longest * longest)
      return `The points other than ${k + 1} lie nearly on a line: a perspective needs four that span an area.`;
  }
  return null;
}
