import { findCycle, laneOf, tapIndex } from '../document/graph';
import { spanOfZone, zoneEndingAt } from '../document/zones';
import { resolveParam } from '../document/params';
import { applies, stepValues } from '../document/values';
import type { Asset } from '../document/media';
import { assetOfLesson, contentOf, mediaFrameAt, mediaOf } from '../document/media';
import type { Lane, MediaFrame, Shot, Source, Step, Tap } from '../document/types';
import { ShotError } from '../errors';
import type { Rect } from '../geometry/rect';
import { EMPTY, intersect, isEmpty, rect, union } from '../geometry/rect';
import { hashText } from '../hash';
import type { Format, PictureInfo } from '../picture';
import { referencesOf } from '../params/kinds';
import { feedsOf, schemaOf } from '../params/parts';
import { COLOUR, RGBA, formatRect, scaleFormat } from '../picture';
import type { RoledPass } from '../passes/roles';
import { roledPasses } from '../passes/roles';
import { acrossFrom } from '../lens/straight';
import { ReadingData } from '../readings/track-data';
import type { StepDefinition, StepIo } from '../step';
import { localityOf } from '../step';
import { behindOf } from '../document/behind';

import type { Definitions, Params, Plan, PlanNode, Remark, Request, SourceNode, StepNode } from './nodes';
import { joinPlacements, reachesPlaced, sameFormat } from './joining';
import { inputKey, maskChannels, needsOf } from './nodes';

export * from './nodes';

/** Where a media frame holds pixels, at a scale: its data window, rounded outward, or the whole frame. */
function boundsOf(media: MediaFrame | undefined, format: Format, scale: number): Rect {
  const files = media ? [media, ...(media.parts ?? [])] : [];
  if (files.length === 0 || files.some((f) => !f.bounds)) return formatRect(format);
  const { x0, y0, x1, y1 } = files.map(({ bounds }) => rect(...(bounds as [number, number, number, number]))).reduce(union);
  return rect(Math.floor(x0 * scale), Math.floor(y0 * scale), Math.ceil(x1 * scale), Math.ceil(y1 * scale));
}

/** A source is an immutable value: its passes are listed once, and what stands for them in keys. */
const passLists = new WeakMap<Source, { list: readonly RoledPass[]; key: string }>();
function passesOfSource(source: Source): { list: readonly RoledPass[]; key: string } {
  let known = passLists.get(source);
  if (!known) {
    known = { list: roledPasses(source.channels, source.passes), key: source.passes ? hashText(JSON.stringify(source.passes)) : '' };
    passLists.set(source, known);
  }
  return known;
}

/** A step passes on what is known of the passes, unless it says otherwise. */
function passesAfter(d: StepDefinition, p: Params, io: StepIo<Params>): Pick<PictureInfo, 'passes'> {
  const passes = d.passes?.(p as never, io as never) ?? io.inputs.main!.passes;
  return passes ? { passes } : {};
}

export interface PlanOptions {
  /** Placing steps that follow each other become one, unless told not to. */
  readonly joinPlacing?: boolean;
}

/** Walks back from the point asked for and finds what is needed in space, time and channels. Throws ShotError. */
export function makePlan(shot: Shot, request: Request, definitions: Definitions, options: PlanOptions = {}): Plan {
  return new Planner(shot, request, definitions, options).plan();
}

/** A shot is an immutable value: its ring, if it has one, is looked for once. */
const cycles = new WeakMap<Shot, { cycle: string[] | null }>();
function cycleOf(shot: Shot): string[] | null {
  let known = cycles.get(shot);
  if (!known) cycles.set(shot, (known = { cycle: findCycle(shot) }));
  return known.cycle;
}

class Planner {
  private readonly byPlace = new Map<string, PlanNode | undefined>();
  private readonly byKey = new Map<string, PlanNode>();
  private readonly order: PlanNode[] = [];
  private readonly remarks: Remark[] = [];
  private readonly scale: number;

  constructor(
    private readonly shot: Shot,
    private readonly request: Request,
    private readonly definitions: Definitions,
    private readonly options: PlanOptions,
  ) {
    this.scale = request.scale;
  }

  plan(): Plan {
    const cycle = cycleOf(this.shot);
    if (cycle) throw new ShotError(`lanes feed each other in a ring: ${cycle.join(' ← ')}`);
    const { tap, frame, channels } = this.request;
    const root = this.tapNode(tap, frame, true);
    if (!root) throw new ShotError('the point asked for does not exist');
    const region = this.request.region ?? formatRect(root.info.format);
    this.want(root, region, channels);
    for (let i = this.order.length - 1; i >= 0; i--) this.spread(this.order[i]!);
    const nodes = this.order.filter((n) => n.channels.size > 0);
    return {
      root,
      nodes,
      sources: nodes.filter((n): n is SourceNode => n.kind === 'source'),
      region,
      channels,
      scale: this.scale,
      remarks: this.remarks,
      key: hashText(`${root.key}|${region.x0},${region.y0},${region.x1},${region.y1}|${channels.join(' ')}`),
    };
  }

  /** The node at a tap; undefined where the lane is muted (a feed then counts as not connected). */
  private tapNode(tap: Tap, frame: number, evenMuted = false): PlanNode | undefined {
    const lane = laneOf(this.shot, tap.lane);
    if (!lane) throw new ShotError(`a lane "${tap.lane}" is referred to that does not exist`);
    if (lane.muted && !evenMuted) return undefined;
    return this.node(lane, tapIndex(lane, tap.after), frame);
  }

  private node(lane: Lane, index: number, frame: number): PlanNode {
    const place = `${lane.id}/${index}/${frame}`;
    const known = this.byPlace.get(place);
    if (known) return known;
    const made = index < 0 ? this.startNode(lane, frame) : this.pointNode(lane, index, frame);
    this.byPlace.set(place, made);
    return made;
  }

  private register<N extends PlanNode>(node: N): N {
    const same = this.byKey.get(node.key);
    if (same) return same as N;
    this.byKey.set(node.key, node);
    this.order.push(node);
    return node;
  }

  private startNode(lane: Lane, frame: number): PlanNode {
    const { start } = lane;
    if ('empty' in start) return this.clearNode();
    if ('tap' in start) {
      const node = this.tapNode(start.tap, frame, true);
      if (!node) throw new ShotError(`lane "${lane.name}" starts from nothing`, { lane: lane.id });
      return node;
    }
    const source = this.shot.sources.find((s) => s.id === start.source);
    if (!source) throw new ShotError(`lane "${lane.name}" starts from a source that does not exist`, { lane: lane.id });
    // Between two frames the earlier one is seen.
    const mediaFrame = mediaFrameAt(source, Math.floor(frame + 1e-6), this.shot.frameRate);
    const media = mediaFrame === null ? undefined : mediaOf(source, mediaFrame);
    const format = scaleFormat(source.format, this.scale);
    const parts = media?.parts?.map((f) => f.hash).join('') ?? '';
    const content = `${parts}${media?.hash ?? source.path ?? source.id}${media && source.kind !== 'movie' ? '' : `#${mediaFrame ?? 'black'}`}`;
    return this.register({
      kind: 'source',
      key: hashText(`source|${content}|${source.colourSpace}|${source.alpha}|${this.scale}|${passesOfSource(source).key}`),
      info: {
        format,
        bounds: mediaFrame === null ? EMPTY : boundsOf(media, format, this.scale),
        channels: source.channels.includes('A') ? source.channels : [...source.channels, 'A'],
        passes: passesOfSource(source).list,
      },
      source,
      mediaFrame,
      scale: this.scale,
      region: EMPTY,
      channels: new Set<string>(),
    });
  }

  /** A picture of the shot's format without a pixel. */
  private clearNode(): PlanNode {
    const format = scaleFormat(this.shot.format, this.scale);
    return this.register({
      kind: 'clear',
      key: hashText(`nothing|${JSON.stringify(format)}`),
      info: { format, bounds: EMPTY, channels: RGBA },
      region: EMPTY,
      channels: new Set<string>(),
    });
  }

  private resolve(definition: StepDefinition, lane: Lane, step: Step, time: number): Params {
    const p: Params = stepValues(this.shot, definition.params, step, time, this.scale);
    for (const [name, value] of Object.entries(p)) {
      if (value instanceof ReadingData) p[name] = this.seenAcross(value, lane, step, time);
    }
    return p;
  }

  /** A reading that was measured on one side of a lens and is used on the other. */
  private seenAcross(data: ReadingData, lane: Lane, step: Step, time: number): ReadingData {
    const across = acrossFrom(this.shot, data.from, lane, step, { frame: time, scale: this.scale });
    return across ? data.seenThrough(across) : data;
  }

  /** The sources that its parameters name; what is lacking, in words, where one is not there. */
  private assetsOf(definition: StepDefinition, step: Step): Map<string, Asset> | string {
    const assets = new Map<string, Asset>();
    for (const [name, d] of Object.entries(schemaOf(definition.params, step.params))) {
      if (d.kind !== 'table' && d.kind !== 'model' && d.kind !== 'lesson') continue;
      const id = step.params[name] ?? d.default;
      if (id === '') continue;
      if (d.kind === 'lesson') {
        const lesson = this.shot.readings.find((r) => r.id === id);
        const asset = lesson?.kind === 'lesson' && assetOfLesson(lesson);
        if (asset) assets.set(name, asset);
        continue;
      }
      const source = this.shot.sources.find((s) => s.id === id && s.kind === (d.kind === 'table' ? 'lut' : 'model'));
      if (!source) return d.kind === 'table' ? 'its colour table' : 'one of its models';
      assets.set(name, source);
    }
    return assets;
  }

  /** The picture after a step, and after the zone that ends with it. */
  private pointNode(lane: Lane, index: number, frame: number): PlanNode {
    const step = lane.steps[index]!;
    const inside = (): PlanNode => this.stepNode(lane, step, frame, (f) => this.node(lane, index - 1, f));
    const zone = zoneEndingAt(lane, index);
    if (!zone) return inside();
    const { first } = spanOfZone(lane, zone);
    const before = (f: number): PlanNode => this.node(lane, first - 1, f);
    if (!zone.on) return before(frame);
    const changed = inside();
    const { width, height } = before(frame).info.format;
    if (changed.info.format.width !== width || changed.info.format.height !== height) {
      this.remarks.push({ lane: lane.id, step: zone.id, message: 'its steps change the size of the frame, so it acts everywhere' });
      return changed;
    }
    const everywhere = (zone.params.within ?? 'all') === 'all' && !zone.mask && Number(resolveParam(this.shot, zone.mix, 1, frame)) >= 1;
    return everywhere ? changed : this.stepNode(lane, zone, frame, before, { changed });
  }

  /**
   * What a step that bends makes of pictures that were joined or coloured before it: each is bent by itself, and they are joined after that. So
   * a plate that was only straightened is the plate again, and what was placed on it is resampled once. Null where nothing was.
   */
  private bentApart(lane: Lane, step: Step, frame: number, main: PlanNode): PlanNode | null {
    if (main.kind === 'clear') return main;
    if (main.kind !== 'step' || !main.definition.mixes || main.mask || !reachesPlaced(main)) return null;
    const bent = (node: PlanNode): PlanNode => this.stepNode(lane, step, frame, () => node);
    const fed: Record<string, PlanNode> = {};
    for (const [key, node] of main.inputs) if (!key.startsWith('main@')) fed[key.split('@')[0]!] = bent(node);
    return this.stepNode(main.lane, main.step, main.io.frame, () => bent(main.main), fed);
  }

  /** The node of a step on what `below` gives; `fed` are inputs that are no taps. */
  private stepNode(
    lane: Lane,
    step: Step,
    frame: number,
    below: (frame: number) => PlanNode,
    fed: Readonly<Record<string, PlanNode>> = {},
  ): PlanNode {
    const definition = this.definitions.get(step.type);
    if (!step.on) return below(frame);
    const remark = (message: string): void => {
      // A step that is planned for several pictures says it once.
      const said = this.remarks.some((r) => r.step === step.id && r.message === message);
      if (!said) this.remarks.push({ lane: lane.id, step: step.id, message });
    };
    if (!definition) {
      remark(`the step type "${step.type}" is not known here and is passed by`);
      return below(frame);
    }
    const mix = Number(resolveParam(this.shot, step.mix, 1, frame));
    if (!(mix > 0)) return below(frame);
    const p = this.resolve(definition, lane, step, frame);
    const assets = this.assetsOf(definition, step);
    if (typeof assets === 'string') {
      remark(`${assets} is no longer among the sources, so it is passed by`);
      return below(frame);
    }
    const { readings } = this.shot;
    const schema = schemaOf(definition.params, step.params);
    const lacking = referencesOf(schema, step.params).find(
      ({ name, to }) => to.kind === 'reading' && !readings.some((r) => r.id === to.id) && applies(schema, name, step),
    );
    if (lacking) remark(`the reading of its ${schema[lacking.name]!.title.toLowerCase()} is no longer there`);
    const samples = (definition.samples?.(p as never, frame) ?? []).map((t) => this.resolve(definition, lane, step, t));
    const { range } = this.shot;
    const frames = definition.frames?.(p as never, { frame, range, samples: samples as never }) ?? {};
    const inputs = new Map<string, PlanNode>();
    for (const f of frames.main ?? [frame]) inputs.set(inputKey('main', f), below(f));
    const maskNode = step.mask && this.tapNode(step.mask, frame);
    const mask = maskNode && { node: maskNode, channel: step.mask!.channel, invert: step.mask!.invert };
    // What it is mixed with is what stands there at this frame, whatever frames it reads.
    if (mix < 1 || mask) inputs.set(inputKey('main', frame), inputs.get(inputKey('main', frame)) ?? below(frame));
    const main = inputs.get(inputKey('main', frame)) ?? inputs.values().next().value!;
    const infos: Record<string, PictureInfo | undefined> = { main: main.info };
    for (const feed of feedsOf(definition, step.params)) {
      const tap = step.feeds[feed.name] ?? (feed.behind ? behindOf(this.shot, lane, step.id) : null);
      for (const f of tap || fed[feed.name] ? (frames[feed.name] ?? [frame]) : []) {
        const node = fed[feed.name] ?? this.tapNode(tap!, f);
        if (!node) continue;
        inputs.set(inputKey(feed.name, f), node);
        if (f === frame || !infos[feed.name]) infos[feed.name] = node.info;
      }
      if (feed.required && !infos[feed.name]) {
        remark(tap ? `its ${feed.title.toLowerCase()} is a muted lane` : `needs its ${feed.title.toLowerCase()} connected`);
        return below(frame);
      }
    }
    let io: StepIo<Params> = {
      frame,
      frameRate: this.shot.frameRate,
      range,
      scale: this.scale,
      shotFormat: scaleFormat(this.shot.format, this.scale),
      inputs: infos,
      info: (input, f) => inputs.get(inputKey(input, f))?.info,
      samples,
      placements: [],
    };
    const told = definition.remark?.(p as never, io as never);
    if (told) remark(told);
    if (definition.neutral?.(p as never, io as never)) return below(frame);
    const format = definition.format?.(p as never, io as never) ?? main.info.format;
    if (definition.placements) {
      const bent = definition.bends?.(p as never) && mix === 1 && !mask ? this.bentApart(lane, step, frame, main) : null;
      if (bent) return bent;
      io = { ...io, placements: definition.placements(p as never, io as never) };
      const joined = mix < 1 || mask || this.options.joinPlacing === false ? null : joinPlacements(main, io.placements);
      if (joined) {
        // What the inner step made is skipped: this one reads the inner one's input.
        io = { ...io, placements: joined.placements, inputs: { main: joined.from.info } };
        inputs.set(inputKey('main', frame), joined.from);
        for (const key of inputs.keys()) if (!key.startsWith('main@')) inputs.delete(key);
        // Nothing is moved after all: the picture is passed on untouched.
        if (joined.placements.every((m) => m.isIdentity && !m.holds) && sameFormat(format, joined.from.info.format)) return joined.from;
      }
    }
    const base = inputs.get(inputKey('main', frame)) ?? main;
    const inputKeys = [...inputs].map(([k, n]) => `${k.split('@')[0]}:${n.key}`);
    return this.register({
      kind: 'step',
      key: hashText(
        JSON.stringify([
          step.type,
          p,
          // A reading is another thing on every frame.
          Object.values(p).some((v) => v instanceof ReadingData) && !definition.still?.(p as never) ? frame : null,
          definition.identity?.(p as never, io as never) ?? null,
          samples,
          io.placements,
          io.shotFormat,
          mix,
          [...assets.values()].map(contentOf),
          inputKeys,
          mask && [mask.node.key, mask.channel, mask.invert],
          this.scale,
        ]),
      ),
      info: { format, ...this.deliver(definition, p, io) },
      definition,
      lane,
      step,
      p,
      io,
      mix,
      assets,
      inputs,
      main: base,
      ...(mask && { mask }),
      needs: [],
      writes: [],
      pointwise: false,
      region: EMPTY,
      channels: new Set<string>(),
    } satisfies StepNode);
  }

  private deliver(d: StepDefinition, p: Params, io: StepIo<Params>): Omit<PictureInfo, 'format'> {
    const main = io.inputs.main!;
    return {
      bounds: d.bounds?.(p as never, io as never) ?? main.bounds,
      channels: d.channels?.(p as never, io as never) ?? main.channels,
      ...passesAfter(d, p, io),
    };
  }

  private want(node: PlanNode, region: Rect, channels: Iterable<string>): void {
    const inside = intersect(region, node.info.bounds);
    if (!isEmpty(inside)) node.region = union(node.region, inside);
    for (const c of channels) if (node.info.channels.includes(c)) node.channels.add(c);
  }

  /** Passes on what is wanted of a node to its inputs. */
  private spread(node: PlanNode): void {
    if (node.kind !== 'step' || node.channels.size === 0) return;
    const wanted = [...node.channels];
    const { definition: d, p, io, main } = node;
    node.writes = d.writes ? d.writes(p as never, wanted, io as never) : wanted;
    const passed = wanted.filter((c) => !node.writes.includes(c));
    this.want(main, node.region, passed);
    node.pointwise = true;
    if (node.writes.length === 0 || isEmpty(node.region)) return;
    const locality = localityOf(d, p);
    // What any pixel may depend on is worked out once for all that may be asked of it.
    if (locality === 'whole') node.region = node.info.bounds;
    node.needs = needsOf(node, node.region);
    node.pointwise = locality === 'pixel';
    for (const need of node.needs) {
      const from = node.inputs.get(inputKey(need.input, need.frame!));
      if (from) this.want(from, need.region, need.channels);
    }
    if (d.colour && p.unpremultiply) {
      this.want(main, node.region, [...COLOUR, 'A']);
      // What it reads around a pixel, and on other frames, is divided by the alpha there.
      for (const need of node.needs) {
        const from = need.input === 'main' && node.inputs.get(inputKey('main', need.frame!));
        if (from) this.want(from, need.region, [...COLOUR, 'A']);
      }
    }
    if (node.mix < 1 || node.mask) this.want(main, node.region, node.writes);
    if (node.mask) this.want(node.mask.node, node.region, maskChannels(node.mask.channel));
  }
}
