import { grow, union } from '../../geometry/rect';
import { MERGED } from '../../passes/merge';
import { surfaceChannels, surfacePasses } from '../../passes/positions';
import type { RoledPass } from '../../passes/pass';
import { partKey } from '../../params/parts';
import { RGBA, formatRect } from '../../picture';
import { showsPicture } from '../../space/things/params';
import { cloudChannels } from '../../space/things/dots';
import type { PictureInfo } from '../../picture';
import { defineStep } from '../../step';
import { data, given, pictureFrame, reads, sceneParams, timesOf } from './scene-params';
import { SceneRender } from './scene-render';

const hasPlaces = (info: PictureInfo | null | undefined): boolean => Boolean(info && cloudChannels(info));

export const scene = defineStep({
  type: 'scene',
  title: 'Scene',
  family: 'Space',
  summary: 'Things in the shot, seen through its camera: cards with pictures, models, lights, and what catches their shadows.',
  readsData: true,
  params: sceneParams,
  feeds: [],
  samples: timesOf,
  remark: (p, io) => {
    if (p.things.length === 0) return 'nothing is in it yet: add a card, a model or a light';
    if (p.seen === 'reading' && !p.camera) return 'needs a solved camera, or a camera set here';
    if (reads(p) && !surfacePasses(io.inputs.main, data).position && (p.seen === 'passes' || !surfacePasses(io.inputs.main, data).depth))
      return p.seen === 'passes'
        ? 'this lane has no position pass that its camera could be found from'
        : 'this lane has no depth or position pass';
    const lacking = p.things.find((t) => t.on && t.what === 'model' && t.model === '');
    if (lacking) return `${lacking.name} has no model: choose one among the sources`;
    const bare = p.things.find(
      (t) =>
        t.on &&
        t.shows === 'thrown' &&
        !['points', 'light', 'catcher', 'holder'].includes(t.what) &&
        !io.info(partKey(t.id, 'picture'), pictureFrame(t, io.frame)),
    );
    if (bare) return `${bare.name} has no picture to be projected: connect one to it`;
    const dots = p.things.find(
      (t) => t.on && t.what === 'points' && t.dots === 'render' && !hasPlaces(io.info(partKey(t.id, 'render'), io.frame + t.offset)),
    );
    if (dots) return `${dots.name} has no places: connect a render that has a position or depth pass`;
    if (p.seen !== 'reading' && p.things.some((t) => t.on && t.what === 'points' && t.dots === 'camera'))
      return 'points of the solved camera are seen by that camera: choose it, or points of a render';
    if (
      p.things.some((t) => t.on && !t.holds && ['model', 'catcher'].includes(t.what)) &&
      !p.things.some((t) => t.on && t.what === 'light')
    )
      return 'no light is on: an even one stands in';
    return null;
  },
  neutral: (p) =>
    p.over && (p.things.every((t) => !t.on || t.what === 'light' || t.what === 'holder') || (p.seen === 'reading' && !p.camera)),
  bounds: (p, io) => union(io.inputs.main!.bounds, grow(formatRect(io.inputs.main!.format), Math.ceil(p.overscan))),
  channels: (p, io) => [...new Set([...io.inputs.main!.channels, ...given(p)])],
  passes: (p, io): RoledPass[] => {
    const had = (io.inputs.main!.passes ?? []) as RoledPass[];
    if (p.give !== 'layers') return had;
    const own = MERGED.map(({ role, name, channels }): RoledPass => ({ name, kind: role as RoledPass['kind'], channels, role }));
    return [
      ...had.filter((h) => !own.some((o) => o.name === h.name)),
      ...own,
      { name: 'objectId', kind: 'id', channels: ['objectId.Y'], role: 'id' },
    ];
  },
  writes: (p, channels) => channels.filter((c) => given(p).includes(c)),
  frames: (p, io) =>
    Object.fromEntries(
      p.things
        .filter((t) => t.on)
        .flatMap((t) => {
          if (t.what !== 'points') return [[partKey(t.id, 'picture'), [pictureFrame(t, io.frame)]] as const];
          return t.dots === 'render' ? [[partKey(t.id, 'render'), [io.frame + t.offset]] as const] : [];
        }),
    ),
  identity: (_, io) => io.frame,
  locality: 'whole',
  needs: (p, want, io) => {
    const { main } = io.inputs;
    const own = [...RGBA, ...want.channels, ...(reads(p) ? surfaceChannels(surfacePasses(main, data)) : [])].filter((c) =>
      main!.channels.includes(c),
    );
    const fed = p.things.flatMap((t) => {
      if (!t.on) return [];
      const feeds = [...(showsPicture(t) ? ['picture'] : []), ...(t.what === 'card' && t.lift !== 0 ? ['lift'] : [])];
      return feeds.flatMap((f) => {
        const input = partKey(t.id, f);
        const frame = f === 'picture' ? pictureFrame(t, io.frame) : io.frame;
        const info = io.info(input, frame);
        return info ? [{ input, region: info.bounds, channels: [...RGBA], frame }] : [];
      });
    });
    const dots = p.things.flatMap((t) => {
      if (!t.on || t.what !== 'points' || t.dots !== 'render') return [];
      const [input, frame] = [partKey(t.id, 'render'), io.frame + t.offset];
      const info = io.info(input, frame);
      const channels = info && cloudChannels(info);
      return channels ? [{ input, region: info.bounds, channels, frame }] : [];
    });
    return [{ input: 'main', region: reads(p) ? main!.bounds : want.region, channels: own }, ...fed, ...dots];
  },
  render: (ctx, p, out) => new SceneRender(ctx as never, p, out.region, out.planes).run(),
});
