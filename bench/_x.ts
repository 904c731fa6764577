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
for (const [name, o] of Object.entries({ asis: SG070, blur2: { ...SG070, blur: 1.4, corners: 2.2 }, noise3: { ...SG070, noise: 0.06 }, covered: { ...SG070, covered: 0.3 }, grid: { ...SG070, pattern: 'grid' as const } })) {
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
    console.log(name, f, c?.pattern, `found ${hit.length}/${vis.length}`, `false ${d.length - good.length}`, `rms ${rms.toFixed(3)} max ${Math.max(...good.map((x) => x.e)).toFixed(3)}`, `orders ${off.size}`, `${ms.toFixed(0)} ms`);
  }
}
