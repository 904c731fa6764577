import { renderChart, SG070, chartTruth } from '@/demo/sg070';
import { SRGB } from '@/core/colour/transfer';
import { detectChart } from '@/core/lens/chart/detect';
import sharp from 'sharp';
const W = 960, H = 540;
async function viaJpeg(p: Float32Array) {
  const codes = Buffer.from(p.map((v) => Math.min(255, Math.max(0, Math.round(255 * SRGB.encode(Math.max(0, v)))))));
  const j = await sharp(codes, { raw: { width: W, height: H, channels: 3 } }).jpeg({ quality: 92 }).toBuffer();
  const { data } = await sharp(j).raw().toBuffer({ resolveWithObject: true });
  return { width: W, height: H, data: Float32Array.from({ length: W * H }, (_, i) => (0.2126 * data[3 * i]! + 0.7152 * data[3 * i + 1]! + 0.0722 * data[3 * i + 2]!) / 255) };
}
for (const [name, o] of Object.entries({ asis: SG070, covered: { ...SG070, covered: 0.3 }, covered2: { ...SG070, covered: 0.3, seed: 99 },  blurnoise: { ...SG070, blur: 1.4, corners: 2.2, noise: 0.06 }, grid: { ...SG070, pattern: 'grid' as const } })) {
  for (const f of [1, 2, 3]) {
    const g = await viaJpeg(renderChart(f, o));
    const t = performance.now();
    const c = detectChart(g, 'auto');
    const ms = performance.now() - t;
    const truth = chartTruth(f, o);
    const vis = truth.filter((q) => !q.hidden && q.x > 3 && q.y > 3 && q.x < W - 3 && q.y < H - 3);
    const got = c?.crossings ?? [];
    const d = got.map((p) => { const n = truth.reduce((b, q) => Math.hypot(q.x - p.x, q.y - p.y) < Math.hypot(b.x - p.x, b.y - p.y) ? q : b); return { e: Math.hypot(n.x - p.x, n.y - p.y), n, p }; });
    const good = d.filter((x) => x.e < 1.5);
    const hit = vis.filter((q) => got.some((p) => Math.hypot(q.x - p.x, q.y - p.y) < 1.5));
    const off = new Set(good.map((x) => `${x.n.column - x.p.column} ${x.n.row - x.p.row}`));
    const rms = Math.sqrt(good.reduce((s, x) => s + x.e * x.e, 0) / good.length);
    console.log(name, f, c?.pattern, `found ${hit.length}/${vis.length}`, `false ${d.length - good.length}`, `rms ${rms.toFixed(3)} max ${Math.max(...good.map((x) => x.e)).toFixed(3)}`, `orders ${off.size}`, "missed", vis.filter((q) => !hit.includes(q)).map((q) => q.x.toFixed(0)+","+q.y.toFixed(0)).slice(0,8).join(" "), `${ms.toFixed(0)} ms`, good.sort((a, b) => b.e - a.e).slice(0, 3).map((x) => `${x.e.toFixed(2)}@${x.p.x.toFixed(0)},${x.p.y.toFixed(0)}`).join(" "));
  }
}
import { solveCharts } from '@/core/lens/solve-charts';
import { lensMapOf } from '@/core/lens/lens';
import { WIDE, directionAt } from '@/demo/wide-lens';
import { fitMap } from '@/core/geometry/fit';
import { applyHomography } from '@/core/geometry/homography';
for (const [name, o] of Object.entries({ asis: SG070, noise3: {...SG070, noise: 0.06}, blur2: { ...SG070, blur: 1.4, corners: 2.2 }, covered: { ...SG070, covered: 0.3 }, grid: { ...SG070, pattern: 'grid' as const } })) {
  const charts = [] as any[];
  for (const f of [1, 2, 3]) charts.push(detectChart(await viaJpeg(renderChart(f, o)), 'auto')!.crossings);
  for (const model of ['auto', 'radial2', 'brown'] as const) {
    const t = performance.now();
    const s = solveCharts({ charts, format: { width: W, height: H }, model });
    const ms = performance.now() - t;
    console.log(name, model, '→', s.lens.model, s.lens.focal.toFixed(2), s.lens.centre.map((v) => v.toFixed(2)).join(','), Object.entries(s.lens.coefficients).map(([k, v]) => `${k} ${v.toFixed(4)}`).join(' '), 'rms', s.rms.toFixed(4), 'max', s.max.toFixed(3), 'out', s.out.flat().filter(Boolean).length, 'assumed', s.assumed, `${ms.toFixed(0)} ms`);
    if (model === 'auto') console.log('   held', s.tried.map((x) => `${x.model} ${x.held.toFixed(4)}`).join(', '));
    // frame error: filmed px -> est. direction -> homography-aligned to truth direction -> in px
    const map = lensMapOf(s.lens); const to = new Float64Array(2); const pairs: any[] = [];
    for (let j = 0; j <= 18; j++) for (let i = 0; i <= 32; i++) { const [x, y] = [i * 30, j * 30]; map.straighten(x, y, to); const d = directionAt(x, y); pairs.push([(to[0]! - s.lens.centre[0]) / s.lens.focal, (to[1]! - s.lens.centre[1]) / s.lens.focal, d[0], d[1]]); }
    for (const kind of ['none', 'perspective'] as const) {
      const H = kind === 'none' ? null : fitMap('perspective', pairs);
      const err = pairs.map(([a, b, u, v]: number[]) => { const [p, q] = H ? applyHomography(H, a!, b!) : [a!, b!]; return WIDE.focal * Math.hypot(p! - u!, q! - v!); });
      console.log('   truth', kind, 'mean', (err.reduce((x, y) => x + y, 0) / err.length).toFixed(4), 'max', Math.max(...err).toFixed(3));
    }
  }
}
