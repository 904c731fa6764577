'use client';
import { useEffect, useState } from 'react';
import type { Shot, Source, Step } from '@/core/document';
import { gapsIn, isPicture, outsideShot, spanOf, usedFrames } from '@/core/document';
import type { FindingKind } from '@/core/scopes';
import { rangesText } from '@/engine';
import { STEPS } from '@/core/steps';
import { accessOfSource } from '@/store';
import { alignSource, setParams } from '@/core/commands';
import { CheckIcon, WarningAmberIcon } from '@/ui/theme/icons';
import { useRemarks } from '../lanes/Lanes';
import { useMeasured, useOnStage } from '../stage/on-stage';
import { useRun, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { MatteReport } from './MatteReport';
import { ReadThrough } from './ReadThrough';

interface Item {
  key: string;
  title: string;
  text: string;
  /** Worth knowing, but as somebody may have meant it. */
  mild?: boolean;
  show?: () => void;
  /** What would put it right. */
  mend?: { label: string; act(): void };
}

const FOUND: Record<FindingKind, { title: string; text: string; channel: 'colour' | 'audit'; mild?: true }> = {
  notFinite: { title: 'NaN or infinite', text: 'pixels are no numbers', channel: 'colour' },
  negative: { title: 'Negative light', text: 'pixels are below 0', channel: 'colour' },
  alphaBelow: { title: 'Alpha below 0', text: 'pixels take more away than there is', channel: 'audit' },
  alphaAbove: { title: 'Alpha above 1', text: 'pixels cover more than all', channel: 'audit' },
  lightWithoutAlpha: { title: 'Light where alpha is 0', text: 'pixels: they add to what lies behind', channel: 'audit', mild: true },
};

/** What is wrong or unusual in the picture that is seen and in the shot, each with a way to it. */
export function Checks() {
  const picture = usePictureItems();
  const items = [...(picture ?? []), ...useShotItems()];
  const grave = items.filter((i) => !i.mild).length;
  const area = useView((s) => s.area !== null);
  const clear = !picture
    ? 'Looking at the picture'
    : area
      ? 'Nothing is wrong in the area that is worked out'
      : 'Nothing is wrong at this frame';
  return (
    <div className="board checks" role="region" aria-label="Checks">
      <div className="check head">
        {grave === 0 ? picture && <CheckIcon sx={{ fontSize: 15 }} /> : <WarningAmberIcon className="doubt" sx={{ fontSize: 15 }} />}
        <span className="grow">
          {grave === 0 ? clear : `${grave} to look at`}
          {items.length > grave && `, ${items.length - grave} worth knowing`}.
        </span>
      </div>
      <ReadThrough />
      <MatteReport />
      {items.map((i) => (
        <div key={i.key} className={`check${i.mild ? ' mild' : ''}`}>
          <span className="grow">
            <b>{i.title}</b> {i.text}
          </span>
          {i.mend && (
            <button className="pill" onClick={i.mend.act}>
              {i.mend.label}
            </button>
          )}
          {i.show && (
            <button className="pill" onClick={i.show}>
              Show me
            </button>
          )}
        </div>
      ))}
    </div>
  );
}

/** The pixels of the picture on the stage; null until they have been looked at. */
function usePictureItems(): Item[] | null {
  const found = useMeasured((w, p) => w.trouble({ pixels: p.pixels, region: p.region }), 'trouble');
  const { rendered, scale } = useOnStage();
  if (!found || !rendered) return null;
  return (Object.keys(FOUND) as FindingKind[])
    .filter((k) => found[k].count > 0)
    .map((k) => {
      const { title, text, channel, mild } = FOUND[k];
      const { count, around } = found[k];
      const [w, h] = [rendered.format.width / scale, rendered.format.height / scale];
      const show = (): void => {
        const [bw, bh] = [(around.x1 - around.x0) / scale, (around.y1 - around.y0) / scale];
        const zoom = Math.min(16, Math.max(0.25, Math.min(500 / (bw + 20), 340 / (bh + 20))));
        const centre: [number, number] = [(around.x0 + around.x1) / 2 / scale - w / 2, (around.y0 + around.y1) / 2 / scale - h / 2];
        view.set({ zoom, centre, channel });
      };
      return { key: k, title, text: `${count} ${text}`, show, ...(mild && { mild }) };
    });
}

const select = (id: string) => (): void => view.set({ selection: { kind: 'step', id }, tab: 'lanes' });
const selectSource = (id: string) => (): void => view.set({ selection: { kind: 'source', id } });

/** Goes to the frame of the shot at which one of a source's own stands. */
const showFrame = (source: Source, own: number, shot: Shot) => (): void => {
  const passed = ((own - usedFrames(source).first) * shot.frameRate) / (source.rate ?? shot.frameRate);
  const frame = Math.min(shot.range.last, Math.max(shot.range.first, source.start + Math.ceil(passed)));
  view.set({ selection: { kind: 'source', id: source.id }, frame, playing: false });
};

/** What of a grade is more than a gain. */
const CURVED = ['contrast', 'offset', 'masterOffset', 'power', 'masterPower'];

/** True of a colour step that acts on premultiplied light otherwise than by a gain: rims then are no longer those of what they belong to. */
function rimsSuffer({ type, params }: Step): boolean {
  if (!STEPS.get(type)?.colour || params.unpremultiply !== false) return false;
  return type !== 'grade' || CURVED.some((name) => params[name] !== undefined);
}

/** The shot's structure and its media. */
function useShotItems(): Item[] {
  const shot = useShot();
  const run = useRun();
  const remarks = useRemarks();
  const media = useMissing(shot);
  const items: Item[] = remarks.map((r, i) => {
    const lane = shot.lanes.find((l) => l.id === r.lane);
    const step = lane?.steps.find((s) => s.id === r.step);
    const title = step ? `${lane!.name} ▸ ${step.name}` : (lane?.name ?? 'Shot');
    return { key: `remark ${i}`, title, text: r.message, ...(step && { show: select(step.id) }) };
  });
  items.push(...media);
  for (const source of shot.sources) {
    const used = shot.lanes.some((l) => 'source' in l.start && l.start.source === source.id);
    if (source.kind === 'sequence') {
      const { first, last } = usedFrames(source);
      const gaps = gapsIn(source.frames ?? [], first, last);
      if (gaps.length)
        items.push({
          key: `gaps ${source.id}`,
          title: source.name,
          text: `has no frame ${rangesText(gaps)}`,
          show: selectSource(source.id),
        });
    }
    const odd = (source.frames ?? []).filter((f) => f.size);
    if (odd.length) {
      const some = odd.slice(0, 3).map((f) => `${f.frame} (${f.size!.join('×')})`);
      const more = odd.length > 3 ? ` and ${odd.length - 3} more` : '';
      const text = `has frames of another size than its ${source.format.width}×${source.format.height}: ${some.join(', ')}${more}`;
      items.push({ key: `odd ${source.id}`, title: source.name, text, show: showFrame(source, odd[0]!.frame, shot) });
    }
    const outside = used ? outsideShot(source, shot) : null;
    if (outside) {
      const { first, last } = spanOf(source, shot.frameRate);
      items.push({
        key: `outside ${source.id}`,
        title: source.name,
        text: `stands at ${first}–${last}, ${outside} the shot: only its end frame is seen`,
        mend: { label: `Start at ${shot.range.first}`, act: () => void run(`Align ${source.name}`, alignSource(source.id)) },
        show: selectSource(source.id),
      });
    }
    if (source.alphaDoubt)
      items.push({ key: `alpha ${source.id}`, title: source.name, text: source.alphaDoubt, show: selectSource(source.id) });
    for (const [pass, { doubt }] of Object.entries(source.passes ?? {})) {
      if (!doubt || !used) continue;
      items.push({
        key: `pass ${source.id} ${pass}`,
        title: `${source.name}: ${pass}`,
        text: doubt,
        mild: true,
        show: selectSource(source.id),
      });
    }
    const { width, height } = source.format;
    const other = isPicture(source) && (width !== shot.format.width || height !== shot.format.height);
    if (used && other) {
      const text = `is ${width}×${height}, the shot ${shot.format.width}×${shot.format.height}`;
      items.push({ key: `size ${source.id}`, title: source.name, text, mild: true, show: selectSource(source.id) });
    }
  }
  for (const lane of shot.lanes) {
    if (lane.muted) items.push({ key: `muted ${lane.id}`, title: lane.name, text: 'is muted', mild: true });
    for (const step of lane.steps) {
      if (step.on && rimsSuffer(step)) {
        items.push({
          key: `rims ${step.id}`,
          title: `${lane.name} ▸ ${step.name}`,
          text: 'does not divide by alpha first: soft edges come out darker or brighter than what they belong to',
          mend: {
            label: 'Divide by alpha',
            act: () => void run('Divide by alpha', setParams(step.id, { unpremultiply: true }, shot.range.first)),
          },
          show: select(step.id),
        });
      }
      if (!step.on)
        items.push({ key: `off ${step.id}`, title: `${lane.name} ▸ ${step.name}`, text: 'is off', mild: true, show: select(step.id) });
    }
  }
  return items;
}

/** Sources whose files cannot be had. */
function useMissing(shot: Shot): Item[] {
  const [items, setItems] = useState<Item[]>([]);
  const { sources } = shot;
  useEffect(() => {
    let live = true;
    const look = async (): Promise<void> => {
      const found: Item[] = [];
      for (const s of sources) {
        const { access, missing } = await accessOfSource(s);
        const text =
          access === 'gone' ? `misses ${missing.length} files, ${missing[0]} first` : 'is linked, and the browser asks before it reads it';
        if (access !== 'here') found.push({ key: `media ${s.id}`, title: s.name, text, show: selectSource(s.id) });
      }
      if (live) setItems(found);
    };
    void look();
    return () => {
      live = false;
    };
  }, [sources]);
  return items;
}
