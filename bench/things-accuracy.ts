import { SLIPWAY_BOXES, SLIPWAY_SUN, slipwayCamera, slipwayHit } from '@/demo/sg050';
import { rect } from '@/core/geometry/rect';
import type { Vec3 } from '@/core/geometry/vec3';
import { placedA3, quaternionOfDegrees } from '@/core/render/affine';
import { PLAIN } from '@/core/render/mesh';
import { renderMoment } from '@/core/render/render';
import type { Drawn, View } from '@/core/render/screen';
import { ShadowMap } from '@/core/render/shadow';
import { boxMesh, cardMesh } from '@/core/render/shapes';
import { poseOfMatrix } from '@/core/space/pose';
import { matrixOfPose } from '@/core/space/camera-data';
import { upright } from '@/core/space/reference';
import { nodeKernels } from '@/engine/node/host';

const [W, H] = [640, 360];
const FOCAL = 420;
const KINDS = ['ground', 'wall', 'crate', 'steel'];

const middle = (list: number[], share: number): number => {
  const sorted = [...list].sort((a, b) => a - b);
  return sorted[Math.floor(share * (sorted.length - 1))] ?? 0;
};

/** The scene's layers against the slipway as its generator's rays meet it: crates, beams, ground and wall, straight pixels. */
export async function thingsAccuracy(): Promise<string> {
  const lines = [
    'The layers of a scene of the slipway’s crates, beams, ground and wall against what the generator’s rays meet: 640×360, straight pixels.\n',
  ];
  const tell = (text: string): void => void lines.push(text);
  const kernels = await nodeKernels();
  const box = boxMesh();
  const plain = { ...PLAIN, specular: 0 };
  const degrees = (r: number): number => (r * 180) / Math.PI;
  const flat = (at: Vec3, turn: Vec3, size: readonly [number, number]): Drawn => ({
    mesh: cardMesh(1, 1, 1, 1),
    material: { ...plain, doubleSided: true },
    matrix: placedA3(at, quaternionOfDegrees(turn), [size[0], size[1], 1]),
    id: 90,
    casts: false,
  });
  const drawn: Drawn[] = [
    ...SLIPWAY_BOXES.map((b, i): Drawn => ({
      mesh: box,
      material: plain,
      matrix: placedA3(upright(b.at), quaternionOfDegrees([0, -degrees(b.yaw), 0]), [2 * b.half[0], 2 * b.half[1], 2 * b.half[2]]),
      id: i + 1,
      casts: true,
    })),
    flat([0, 0, 0], [-90, 0, 0], [400, 400]),
    flat([0, 1.3, -11.5], [0, 0, 0], [400, 2.6]),
  ];
  const towards = upright(SLIPWAY_SUN);
  tell('| frame | pixels | depth, median · 99 % | normal, median · 99 % | sun and shadow agree | rim of shadows |');
  tell('| ---: | ---: | ---: | ---: | ---: | ---: |');
  for (const frame of [1, 48, 96]) {
    const { eye, pose } = slipwayCamera(frame);
    const view: View = { matrix: matrixOfPose(poseOfMatrix(pose)), focal: FOCAL, centre: [W / 2, H / 2] };
    const n = W * H;
    const plane = () => kernels.take(n);
    const [r, g, b, a, depth] = [plane(), plane(), plane(), plane(), plane()];
    const normal = [plane(), plane(), plane()];
    const shadow = ShadowMap.ofSun(kernels, drawn, towards, 4096, 0.02);
    const light = {
      kind: 'sun' as const,
      colour: [1, 1, 1] as const,
      towards,
      at: [0, 0, 0] as const,
      aim: [0, 0, 0] as const,
      outer: 0,
      inner: 0,
      shadow,
    };
    renderMoment(kernels, { view, drawn, cards: [], lights: [light], environment: null, mirrors: new Map() }, rect(0, 0, W, H), {
      r,
      g,
      b,
      a,
      depth,
      normal,
    });
    const [far, turned]: [number[], number[]] = [[], []];
    let [agree, count, rim] = [0, 0, 0];
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        const i = y * W + x;
        const [u, v] = [(x + 0.5 - W / 2) / FOCAL, (y + 0.5 - H / 2) / FOCAL];
        const m = pose;
        const d = [m[0] * u + m[4] * v + m[8], m[1] * u + m[5] * v + m[9], m[2] * u + m[6] * v + m[10]] as const;
        const hit = slipwayHit(eye, d, KINDS);
        if (!hit || (hit.shadowOf && !KINDS.includes(hit.shadowOf))) continue;
        const z = hit.t / Math.hypot(...d);
        far.push(Math.abs(depth[i]! / z - 1));
        const up = upright(hit.normal);
        const c = Math.min(
          1,
          [0, 1, 2].reduce((s, k) => s + up[k]! * normal[k]![i]!, 0),
        );
        turned.push(degrees(Math.acos(c)));
        const facing = Math.max(
          0,
          [0, 1, 2].reduce((s, k) => s + up[k]! * towards[k]!, 0),
        );
        if (facing < 0.05) continue;
        count++;
        const open = r[i]! / (0.8 * facing);
        if (open > 0.1 && open < 0.9) rim++;
        else if (open > 0.5 === hit.sunlit) agree++;
      }
    const percent = (v: number): string => `${(100 * v).toFixed(3)} %`;
    tell(
      `| ${frame} | ${far.length} | ${percent(middle(far, 0.5))} · ${percent(middle(far, 0.99))} | ${middle(turned, 0.5).toFixed(3)}° · ${middle(turned, 0.99).toFixed(2)}° | ${percent(agree / (count - rim))} | ${percent(rim / count)} |`,
    );
    [r, g, b, a, depth, ...normal].forEach((p) => kernels.give(p));
  }
  return lines.join('\n');
}
