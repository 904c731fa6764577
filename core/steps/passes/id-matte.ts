import { idChannels, idSetOf, floatsOf } from '../../passes/id';
import { giveMatte, matteChannels, matteNeeds, matteOutput } from '../../passes/matte-output';
import { layer, number, picks } from '../../param';
import { RGBA } from '../../picture';
import { defineStep, pixelsOf } from '../../step';

export const idMatte = defineStep({
  type: 'idMatte',
  title: 'ID matte',
  family: 'Passes',
  summary: 'Makes the matte of things of a render that are picked in the picture, by Cryptomatte, by number or by colour.',
  readsData: true,
  params: {
    set: layer('IDs', { role: 'cryptomatte', help: 'Which of the render’s ids.' }),
    things: picks('Things'),
    near: number('Colour IDs within', 0.02, [0, 0.2], {
      min: 0,
      max: 10,
      decimals: 3,
      help: 'Of colour ids: how far from the picked one.',
    }),
    gives: matteOutput,
  },
  feeds: [],
  remark: (p, io) => {
    if (!idSetOf(io.inputs.main!, p.set))
      return 'the picture has no ids: pick it before steps that drop them, or say in the layer grid which pass they are';
    return p.things.length === 0 ? 'nothing is picked yet: pick things on the picture' : null;
  },
  neutral: (p, io) => !idSetOf(io.inputs.main!, p.set),
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, ...RGBA])],
  writes: (_, channels) => matteChannels(channels),
  locality: 'pixel',
  needs: (p, { region, channels }, io) => {
    const set = idSetOf(io.inputs.main!, p.set)!;
    // Of numbers and colours the edge is the picture's own.
    const edge = set.kind === 'cryptomatte' ? [] : ['A'];
    return [{ input: 'main', region, channels: [...idChannels(set), ...edge, ...matteNeeds(p.gives, channels)] }];
  },
  render(ctx, p, out) {
    const { fn } = ctx.kernels;
    const set = idSetOf(ctx.inputs.main!, p.set)!;
    const { planes } = ctx.tile('main')!;
    const n = pixelsOf(out);
    const matte = ctx.scratch(n);
    const ids = floatsOf(set, p.things);
    const list = ctx.scratch(ids.length + 4);
    list.set(ids);
    if (p.things.length === 0) matte.fill(0);
    else if (set.kind !== 'colour') {
      const pairs: readonly (readonly [string, string])[] = set.kind === 'cryptomatte' ? set.ranks : [[set.channel, 'A']];
      const pointers = ctx.scratch(2 * pairs.length);
      new Uint32Array(pointers.buffer, pointers.byteOffset, pointers.length).set(pairs.flat().map((c) => planes[c]!.byteOffset));
      fn.idCoverage(pointers.byteOffset, pairs.length, matte.byteOffset, n, list.byteOffset, ids.length);
    } else {
      matte.fill(0);
      const [r, g, b] = set.channels.map((c) => planes[c]!) as [Float32Array, Float32Array, Float32Array];
      for (let i = 0; i < n; i++) {
        for (let k = 0; k < ids.length; k += 3) {
          const far = Math.max(Math.abs(r[i]! - ids[k]!), Math.abs(g[i]! - ids[k + 1]!), Math.abs(b[i]! - ids[k + 2]!));
          if (far <= p.near) matte[i] = planes.A![i]!;
        }
      }
    }
    giveMatte(ctx, p.gives, matte, out);
  },
});
