import { nodeKernels } from '@/engine/node/host';
import { rect } from '@/core/geometry/rect';
import { ballMesh, boxMesh, cardMesh } from '@/core/render/shapes';
import { PLAIN } from '@/core/render/mesh';
import { placedA3, quaternionOfDegrees } from '@/core/render/affine';
import { renderMoment } from '@/core/render/render';
import { ShadowMap } from '@/core/render/shadow';
import { Environment } from '@/core/render/environment';
import type { Drawn, View } from '@/core/render/screen';
import { encode } from 'fast-png';
import { writeFileSync } from 'node:fs';
const k = await nodeKernels();
const W = 1920, H = 1080;
const view: View = { matrix: [1,0,0,0, 0,-1,0,1.2, 0,0,-1,4], focal: 1500, centre: [W/2, H/2] };
const ball = ballMesh(false, 320, 160);
const drawn: Drawn[] = [
  { mesh: ball, material: { ...PLAIN, base: [0.8,0.5,0.2,1], metal: 1, rough: 0.3 }, matrix: placedA3([-0.4,1,0],[0,0,0,1],[2,2,2]), id: 1, casts: true },
  { mesh: boxMesh(), material: { ...PLAIN, base: [0.2,0.5,0.7,1] }, matrix: placedA3([1,0.4,0.5],quaternionOfDegrees([0,30,0]),[0.8,0.8,0.8]), id: 2, casts: true },
  { mesh: cardMesh(10,10,1,1), material: { ...PLAIN, base: [0.5,0.5,0.5,1] }, matrix: placedA3([0,0,0],quaternionOfDegrees([-90,0,0]),[1,1,1]), id: 3, casts: false },
  { mesh: cardMesh(3,2,1,1), material: { ...PLAIN, base: [0.9,0.2,0.2,0.4], alpha: 'blend', doubleSided: true }, matrix: placedA3([0.3,1,0.3],quaternionOfDegrees([0,50,0]),[1,1,1]), id: 4, casts: false },
];
const s = 1/Math.sqrt(0.3*0.3+1+0.5*0.5);
const towards = [0.3*s, s, 0.5*s] as const;
for (let n = 0; n < 4; n++) {
const t0 = performance.now();
const shadow = ShadowMap.ofSun(k, drawn, towards, 1024, 1.5);
const t1 = performance.now();
const environment = new Environment(null, 0, [0.2,0.25,0.3]);
const out = Object.fromEntries(['r','g','b','a'].map((c) => [c, k.take(W*H)])) as any;
renderMoment(k, { view, drawn, cards: [], lights: [{ kind:'sun', colour:[1,0.95,0.85], towards, at:[0,0,0], aim:[0,0,0], outer:0, inner:0, shadow }], environment, even: false, mirrors: new Map() }, rect(0,0,W,H), out);
console.log('shadow', (t1-t0).toFixed(0), 'all', (performance.now()-t0).toFixed(0), ball.indices.length/3);
if (n === 0) {
  const data = new Uint8Array(W*H*3);
  for (let i=0;i<W*H;i++) ['r','g','b'].forEach((c,j)=> data[3*i+j] = Math.round(255*Math.min(1,Math.max(0,out[c][i]))**(1/2.2)));
  writeFileSync('/tmp/x.png', encode({ width: W, height: H, data, channels: 3, depth: 8 }));
}
Object.values(out).forEach((p: any)=>k.give(p));
}
