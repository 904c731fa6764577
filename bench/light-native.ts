import { spawnSync } from 'node:child_process';

/** What OpenCV is asked for, by the row of the table that it stands beside, with what it does. Four channels of floats where nothing else is said. */
const NATIVE = {
  disc: ['filter2D with the disc', 'cv2.filter2D(a, -1, disc(30))'],
  ramp: ['filter2D with a disc for each of 13 radii, mixed', 'mixed([cv2.filter2D(a, -1, disc(r)) for r in RADII])'],
  line: ['filter2D with a line', 'cv2.filter2D(a, -1, line)'],
  radial: ['warpAffine 96 times, a pixel apart at the corner, averaged', 'spread(turned, 96)'],
  zoom: ['warpAffine 55 times, averaged', 'spread(sized, 55)'],
  remap: ['remap, cubic', 'cv2.remap(a, xs, ys, cv2.INTER_CUBIC)'],
  glow: ['four Gaussians of three channels', 'sum(cv2.GaussianBlur(c, (0, 0), s) for s in (5, 10, 20, 40))'],
  wrap: [
    'two Gaussians, and arithmetic',
    'c + cv2.GaussianBlur(c, (0, 0), 12) * (1 - cv2.GaussianBlur(m, (0, 0), 16))[:, :, None] * m[:, :, None]',
  ],
  rays: ['warpAffine 256 times, three channels, averaged', 'spread(sized, 256, np.maximum(c - 1, 0))'],
  dirt: [
    'four Gaussians of what is bright, times the dirt',
    'c + c * sum(cv2.GaussianBlur(np.maximum(c - 1, 0), (0, 0), s) for s in (20, 40, 80, 160))',
  ],
  shimmer: ['a Gaussian and remap, cubic', 'cv2.remap(cv2.GaussianBlur(a, (0, 0), 1), xs, ys, cv2.INTER_CUBIC)'],
  shadow: [
    'warpAffine and four Gaussians of a matte, mixed',
    'c * (1 - 0.6 * mixed([cv2.GaussianBlur(cv2.warpAffine(m, sized(0.9), (W, H)), (0, 0), s) for s in (1, 4, 8, 14)]))[:, :, None]',
  ],
  vignette: ['fall-off worked out, and multiplied', 'a * (1 / (1 + ((X - W / 2) ** 2 + (Y - H / 2) ** 2) / 1e6) ** 2)[:, :, None]'],
  fringe: [
    'warpAffine of two channels, cubic',
    '[cv2.warpAffine(m, sized(1 + k), (W, H), flags=cv2.INTER_CUBIC) for k in (0.0014, -0.0014)]',
  ],
  film: ['log, a matrix and exp', 'np.exp(cv2.transform(np.log(np.maximum(c, 1e-6)), dyes) * 1.15)'],
  flow: ['DIS medium, both ways', '(dis.calc(g, h, None), dis.calc(h, g, None))'],
  retime: [
    'DIS medium both ways, two remaps, mixed',
    'mixed([cv2.remap(a, xs + f[:, :, 0], ys + f[:, :, 1], cv2.INTER_LINEAR) for f in (dis.calc(g, h, None), dis.calc(h, g, None))])',
  ],
} as const;

export type Native = keyof typeof NATIVE;

/** OpenCV on one thread: what it does, and ms at a size; null where it is not installed. */
export function openCv(width: number, height: number): ((name: Native) => { what: string; ms: number }) | null {
  const code = `
import cv2, json, time, numpy as np
cv2.setNumThreads(1)
W, H = ${width}, ${height}
a = np.random.rand(H, W, 4).astype(np.float32)
c = a[:, :, :3].copy()
m = a[:, :, 3].copy()
RADII = (1, 2, 3, 4, 5, 6.5, 8.5, 11, 14.3, 18.6, 24.2, 27, 30)
def disc(r):
    n = int(np.ceil(r))
    y, x = np.mgrid[-n:n+1, -n:n+1]
    d = (x*x + y*y <= r*r).astype(np.float32)
    return d / d.sum()
line = np.zeros((41, 41), np.float32); line[20, :] = 1 / 41
Y, X = np.mgrid[0:H, 0:W].astype(np.float32)
xs, ys = X + 9 * np.sin(Y / 30), Y + 7 * np.cos(X / 25)
turned = lambda t: cv2.getRotationMatrix2D((W / 2, H / 2), 5 * t, 1)
sized = lambda t: cv2.getRotationMatrix2D((W / 2, H / 2), 0, 1 + 0.05 * t)
def mixed(list):
    out = list[0] / len(list)
    for x in list[1:]: out = cv2.scaleAdd(x, 1 / len(list), out)
    return out
def spread(at, n, p=a):
    out = np.zeros_like(p)
    for k in range(n): out = cv2.scaleAdd(cv2.warpAffine(p, at(k / n - 0.5), (W, H)), 1 / n, out)
    return out
dyes = np.array([[0.94, 0.03, 0.03], [0.03, 0.94, 0.03], [0.03, 0.03, 0.94]], np.float32)
g, h = [np.clip(cv2.GaussianBlur(np.random.rand(H, W).astype(np.float32), (0, 0), 2) * 255 * 2 - 128, 0, 255).astype(np.uint8) for _ in (0, 1)]
dis = cv2.DISOpticalFlow_create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)
def of(f):
    t = []
    while len(t) < 5 and (len(t) < 2 or sum(t) < 4):
        s = time.perf_counter(); f(); t.append(time.perf_counter() - s)
    return sorted(t)[len(t) // 3] * 1000
print(json.dumps({${Object.entries(NATIVE)
    .map(([k, [, f]]) => `'${k}': of(lambda: ${f})`)
    .join(', ')}}))`;
  const { status, stdout } = spawnSync('/usr/bin/python3', ['-c', code], { encoding: 'utf8' });
  if (status !== 0) return null;
  const times = JSON.parse(stdout) as Record<Native, number>;
  return (name) => ({ what: NATIVE[name][0], ms: times[name] });
}
