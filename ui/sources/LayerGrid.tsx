'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useEffect, useRef, useState } from 'react';
import type { Source } from '@/core/document';
import { mediaFrameAt, spanOf } from '@/core/document';
import { messageOf } from '@/core/errors';
import { idLayers } from '@/core/formats';
import { LAYER_KINDS } from '@/core/layers';
import type { RoledPass } from '@/core/passes';
import { roledPasses } from '@/core/passes';
import type { Statistics } from '@/core/statistics';
import { commands, commandsFor, stepForPasses } from '@/core/commands';
import { PassRole } from '../passes/PassRole';
import { toast } from '../theme/toast';
import { useBench, useRun, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { channelsOf, requestFor } from '../workbench/use-picture';
import { drawPass } from './draw-pass';
import { alone } from './SourceThumbnail';

/** Every layer of a pass set side by side, with the range of each channel, by what the layers are for. */
export function LayerGrid({ source, onClose }: { source: Source; onClose(): void }) {
  const shot = useShot();
  const seenFrame = useView((s) => s.frame);
  const span = spanOf(source, shot.frameRate);
  const frame = Math.min(span.last, Math.max(span.first, seenFrame));
  const passes = roledPasses(source.channels, source.passes);
  const sections = [...new Set(passes.map(sectionOf))];
  const ids = idLayers(Object.fromEntries(source.attributes ?? []), source.channels);
  return (
    <Dialog open onClose={onClose} maxWidth="lg" fullWidth aria-label={`Layers of ${source.name}`}>
      <DialogTitle>
        Layers of {source.name} <span className="dust mono">frame {frame}</span>
      </DialogTitle>
      <DialogContent>
        <PassCommands source={source} passes={passes} onClose={onClose} />
        {sections.map((section) => (
          <section key={section}>
            <h2 className="grid-kind">{section}</h2>
            <div className="layergrid">
              {passes
                .filter((p) => sectionOf(p) === section)
                .map((p) => (
                  <PassCell key={p.name} pass={p} source={source} frame={frame} onClose={onClose} />
                ))}
            </div>
          </section>
        ))}
        {ids.map((l) => (
          <p key={l.name} className="dust">
            {l.name} names {Object.keys(l.manifest).length} things: {Object.values(l.manifest).join(', ')}.
            {l.sidecar && ` Its manifest lies beside the picture, in ${l.sidecar}.`}
          </p>
        ))}
      </DialogContent>
      <DialogActions>
        <Button variant="outlined" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}

/** What lies side by side: most kinds of data are one pass each. */
const sectionOf = ({ kind }: RoledPass): string => (LAYER_KINDS[kind].data && kind !== 'matte' ? 'Data' : LAYER_KINDS[kind].title);

/** What can be made of these passes, each by a click: the step stands where it belongs, or on a lane of its own. */
function PassCommands({ source, passes, onClose }: { source: Source; passes: readonly RoledPass[]; onClose(): void }) {
  const run = useRun();
  const list = commandsFor(passes);
  if (list.length === 0) return null;
  return (
    <div className="pass-commands" role="toolbar" aria-label="Make of these passes">
      {list.map(({ type, label, help }) => (
        <Button
          key={type}
          variant="outlined"
          title={help}
          onClick={() => {
            const made: { lane?: string; step?: string } = {};
            if (!run(label, stepForPasses(source.id, type, made)) || !made.step || !made.lane) return;
            view.set({ selection: { kind: 'step', id: made.step }, seen: { lane: made.lane }, layer: '' });
            onClose();
          }}
        >
          {label}
        </Button>
      ))}
    </div>
  );
}

function PassCell({ pass, source, frame, onClose }: { pass: RoledPass; source: Source; frame: number; onClose(): void }) {
  const { viewer } = useBench();
  const shot = useShot();
  const run = useRun();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [figures, setFigures] = useState<Record<string, Statistics> | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => {
    const controller = new AbortController();
    const { signal } = controller;
    const failed = (e: unknown): void => {
      if (!signal.aborted) setProblem(messageOf(e));
    };
    viewer
      .fetch(alone(source, shot), requestFor({ lane: 'alone' }, frame, 0.25, channelsOf(source.channels, pass.name)), 'thumbnail', signal)
      .then((r) => canvas.current && drawPass(canvas.current, r, pass.kind))
      .catch(failed);
    const mediaFrame = mediaFrameAt(source, frame, shot.frameRate);
    if (mediaFrame !== null) viewer.pool.measure(source, mediaFrame, pass.channels, signal).then(setFigures).catch(failed);
    return () => controller.abort();
    // The shot is only the frame around the source here.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [viewer, source, frame, pass.name]);
  const title = pass.name || 'main';
  const show = (): void => {
    const lane = shot.lanes.find((l) => 'source' in l.start && l.start.source === source.id);
    if (!lane) return toast('info', 'Add the source as a lane first; then its layers can be seen on the stage.');
    view.set({ seen: { lane: lane.id, after: '' }, layer: pass.name });
    onClose();
  };
  const asLane = (): void => {
    const made: { lane?: string } = {};
    if (run(`Lane of ${title}`, commands.layerLane(source.id, pass.name, made)) && made.lane) {
      view.set({ selection: { kind: 'lane', id: made.lane }, seen: { lane: made.lane }, layer: '' });
      onClose();
    }
  };
  return (
    <figure className="pass" data-testid={`layer ${title}`}>
      <canvas ref={canvas} aria-label={`Layer ${title}`} role="img" />
      <figcaption>
        <b>{title}</b>
        {problem && <span className="doubt">{problem}</span>}
        <table className="mono">
          <tbody>
            {pass.channels.map((c) => (
              <tr key={c}>
                <td>{c.slice(c.lastIndexOf('.') + 1)}</td>
                <td title="Least">{figures?.[c] ? short(figures[c].min) : ''}</td>
                <td title="Greatest">{figures?.[c] ? short(figures[c].max) : ''}</td>
                {figures?.[c] && figures[c].nan + figures[c].infinite > 0 && (
                  <td className="doubt">{figures[c].nan + figures[c].infinite} not finite</td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
        {pass.name !== '' && <PassRole source={source} pass={pass} />}
        <div className="inline">
          <Button onClick={show}>Show</Button>
          <Button onClick={asLane}>As a lane</Button>
        </div>
      </figcaption>
    </figure>
  );
}

/** Four digits that matter; ids and the like by their power. */
const short = (v: number): string =>
  v !== 0 && (Math.abs(v) >= 1e6 || Math.abs(v) < 1e-4) ? v.toExponential(1) : String(Number(v.toPrecision(4)));
