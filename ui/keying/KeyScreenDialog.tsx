'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import LinearProgress from '@mui/material/LinearProgress';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { useEffect, useState } from 'react';
import { SRGB } from '@/core/colour';
import type { Lane, Shot } from '@/core/document';
import { lanesBehind } from '@/core/document';
import type { FoundScreen, ScreenSample } from '@/core/keying';
import { messageOf } from '@/core/errors';
import { scopeWorker } from '@/engine/browser';
import { keyScreen, plateBefore } from '@/core/assemblies';
import { toast } from '../theme/toast';
import { useBench, useRun, useShot } from '../workbench/context';
import type { Selection } from '../workbench/state';
import { useView, view } from '../workbench/state';
import { requestFor } from '../workbench/use-picture';

/** Frames that are looked at for the screen's colour. */
const LOOKS = 5;
const SCALE = 0.25;
const NOWHERE = 'none';

const css = (colour: readonly number[]): string =>
  `rgb(${colour.map((c) => Math.round(255 * SRGB.encode(Math.min(1, Math.max(0, c))))).join(' ')})`;

/** The step after which the plate is keyed: the chip that is selected, where no other picture has come in before it, else the last such one. */
function plateOf(lane: Lane, selected: string | null): string {
  const last = plateBefore(lane);
  const [chosen, most] = [lane.steps.findIndex((x) => x.id === selected), lane.steps.findIndex((x) => x.id === last)];
  return chosen >= 0 && chosen <= most ? lane.steps[chosen]!.id : last;
}

const NO_SCREEN =
  'No screen was found: no strong, even colour fills enough of this plate. Add a Screen key and pick its colour on the stage instead.';

/** Lanes that may be meant: the selected one, then the result, then whatever else starts from a source, in the order of the board. */
function candidatesOf(shot: Shot, selection: Selection): string[] {
  const own =
    selection?.kind === 'lane'
      ? selection.id
      : selection?.kind === 'step'
        ? shot.lanes.find((l) => l.steps.some((s) => s.id === selection.id))?.id
        : undefined;
  const started = shot.lanes.filter((l) => 'source' in l.start).map((l) => l.id);
  return [...new Set([own, shot.result ?? undefined, ...started].filter((id) => id !== undefined))];
}

/** What can lie behind a lane's element, what usually does first. */
function backgroundsOf(shot: Shot, lane: Lane): { behind: Lane[]; usual: string } {
  // What was laid over the plate can go under it; whatever else it is made of cannot have it laid over.
  const brought = lane.steps.flatMap((x) => (x.type === 'join' && x.feeds.front ? [x.feeds.front.lane] : []));
  const behind = shot.lanes.filter((l) => l !== lane && (brought.includes(l.id) || !lanesBehind(shot, lane.id).has(l.id)));
  const joined = behind.find((l) => l.steps.some((s) => s.type === 'join' && s.feeds.front?.lane === lane.id));
  const usual =
    joined ??
    behind.find((l) => brought.includes(l.id)) ??
    behind.find((l) => l.id === shot.result) ??
    behind.find((l) => 'source' in l.start);
  return { behind, usual: usual?.id ?? NOWHERE };
}

/** One command from a plate to a key in layers: the screen is looked for, then lanes and steps are made like any others. */
export function KeyScreenDialog({ onClose }: { onClose(): void }) {
  const shot = useShot();
  const run = useRun();
  const { viewer } = useBench();
  const selection = useView((s) => s.selection);
  const [candidates] = useState(() => candidatesOf(shot, selection));
  const [plate, setPlate] = useState({ id: candidates[0], byHand: false });
  const lane = shot.lanes.find((l) => l.id === plate.id);
  const after = lane && plateOf(lane, selection?.kind === 'step' ? selection.id : null);
  const [background, setBackground] = useState<string | null>(null);
  const [found, setFound] = useState<FoundScreen | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const { id, byHand } = plate;

  useEffect(() => {
    if (!id) return undefined;
    setFound(null);
    setProblem(null);
    const controller = new AbortController();
    const { first, last } = shot.range;
    const frames = [...new Set(Array.from({ length: LOOKS }, (_, i) => Math.round(first + (i * (last - first)) / (LOOKS - 1))))];
    const look = async (frame: number): Promise<ScreenSample> => {
      const r = await viewer.fetchToKeep(shot, requestFor({ lane: id, after: after! }, frame, SCALE), 'view', controller.signal);
      return { pixels: r.pixels, width: r.region.x1 - r.region.x0, height: r.region.y1 - r.region.y0 };
    };
    const search = async (): Promise<void> => {
      const looks = await Promise.allSettled(frames.map(look));
      if (controller.signal.aborted) return;
      // Frames that are missing are passed by, as long as there is one to look at.
      const samples = looks.flatMap((l) => (l.status === 'fulfilled' ? [l.value] : []));
      const screen = samples.length ? await scopeWorker.call((w) => w.screen(samples)) : null;
      if (controller.signal.aborted) return;
      const next = candidates[candidates.indexOf(id) + 1];
      // The background may be what is selected: the plate is then another lane.
      if (!screen && !byHand && next) return setPlate({ id: next, byHand: false });
      // Nowhere: what was selected is the one to say so.
      if (!screen && !byHand && id !== candidates[0]) return setPlate({ id: candidates[0], byHand: true });
      const failed = looks.find((l) => l.status === 'rejected');
      setFound(screen);
      if (!screen) setProblem(samples.length === 0 && failed ? messageOf(failed.reason) : NO_SCREEN);
    };
    search().catch((e: unknown) => setProblem(messageOf(e)));
    return () => controller.abort();
    // It is looked for once a plate.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [id, byHand, viewer]);

  if (!lane) return null;
  const { behind, usual } = backgroundsOf(shot, lane);
  const over = behind.some((l) => l.id === background) || background === NOWHERE ? background! : usual;
  const key = (): void => {
    if (!found) return;
    const target = over === NOWHERE ? {} : { over };
    if (!run('Key a screen', keyScreen({ lane: lane.id, after: after!, screenColour: found.colour, ...target }))) return;
    view.set({ seen: over === NOWHERE ? { lane: lane.id } : null, selection: { kind: 'lane', id: lane.id } });
    toast(
      'info',
      `"${lane.name}" is keyed: its core, garbage and screen are lanes of their own. Switch any of their steps off to see what it does.`,
    );
    onClose();
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <DialogTitle>Key the screen of {lane.name}</DialogTitle>
      <DialogContent>
        <div className="form">
          <label>Plate</label>
          <Select
            size="small"
            value={lane.id}
            inputProps={{ 'aria-label': 'Plate' }}
            onChange={(e) => setPlate({ id: e.target.value, byHand: true })}
          >
            {shot.lanes.map((l) => (
              <MenuItem key={l.id} value={l.id}>
                {l.name}
              </MenuItem>
            ))}
          </Select>
          <label>Screen</label>
          {found ? (
            <div className="inline" data-testid="found-screen">
              <span className="swatch" style={{ background: css(found.colour) }} />
              <span className="mono">{found.colour.map((c) => c.toFixed(3)).join(' ')}</span>
              <span className="dust">{Math.round(100 * found.share)} % of the frame</span>
            </div>
          ) : problem ? (
            <div className="error" role="alert">
              {problem}
            </div>
          ) : (
            <LinearProgress aria-label="Looking for the screen" />
          )}
          <label>Background</label>
          <Select size="small" value={over} inputProps={{ 'aria-label': 'Background' }} onChange={(e) => setBackground(e.target.value)}>
            {behind.map((l) => (
              <MenuItem key={l.id} value={l.id}>
                {l.name}
              </MenuItem>
            ))}
            <MenuItem value={NOWHERE}>Nothing yet</MenuItem>
          </Select>
        </div>
        <p className="dust">
          Makes a clean screen of the plate, a core and a garbage matte from hard keys, a soft key between them, takes spill off and carries
          colour under the edge. Everything is lanes and steps that you can change.
        </p>
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" color="secondary" disabled={!found} onClick={key}>
          Key it
        </Button>
      </DialogActions>
    </Dialog>
  );
}
