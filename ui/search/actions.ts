import { isTrack } from '@/core/readings';
import { newCamera, removeChosenTracks } from '../space/camera-jobs';
import type { Shot, Step } from '@/core/document';
import { findStep } from '@/core/document';
import type { ShotSession } from '@/store';
import { commands, countCrossings, interpolateFrame, keyFramesOf, shapesIn } from '@/core/commands';
import { newLessonIn } from '../learn/new-lesson';
import { changeAndSolve, newLens } from '../lens/lens-jobs';
import { viewOf } from '../readings/kinds';
import { measureAgainFrom } from '../readings/measuring';
import type { ShapeTool } from '../shapes/shaping';
import { drawsShapes, shaping, takeTool } from '../shapes/shaping';
import { toast } from '../theme/toast';
import { pinSeen, recallPin, toggleWipe } from '../stage/compare';
import { attempt } from '../workbench/attempt';
import { chosenSteps, copySelected, pasteCopied } from '../workbench/copying';
import { removing } from '../clean/removing';
import { brushingOf, toggleBrush } from '../paint/brushing';
import type { Bench } from '../workbench/context';
import { deleteThing } from '../workbench/deleting';
import { view } from '../workbench/state';
import { dissolveSelected, gatherChosen } from '../workbench/zones';

/** Something a user can do from the keyboard or by name. Keys are written as shown on the shortcuts page. */
export interface Action {
  title: string;
  keys: string[];
  run(session: ShotSession, bench: Bench): void;
}

const selected = (shot: Shot) => {
  const { selection } = view.get();
  return selection?.kind === 'step' ? findStep(shot, selection.id) : null;
};

const selectedReading = (shot: Shot) => {
  const { selection } = view.get();
  return selection?.kind === 'reading' ? shot.readings.find((r) => r.id === selection.id) : undefined;
};

const go = (session: ShotSession, frame: number): void => {
  const { first, last } = session.store.getState().shot.range;
  view.set({ frame: Math.min(last, Math.max(first, frame)), playing: false });
};

const channel = (title: string, key: string, value: 'R' | 'G' | 'A' | 'luma' | 'B'): Action => ({
  title,
  keys: [key],
  run: () => view.set({ channel: view.get().channel === value ? 'colour' : value }),
});

/** The selected step or zone. */
function limited(session: ShotSession): { step: Step } | null {
  const { selection } = view.get();
  const { shot } = session.store.getState();
  const zone = selection?.kind === 'zone' ? commands.findZone(shot, selection.id)?.zone : undefined;
  return zone ? { step: zone } : selected(shot);
}

const tool = (title: string, keys: string[], of: ShapeTool): Action => ({
  title,
  keys,
  run: (s) => {
    const step = limited(s)?.step;
    if (step && drawsShapes(step)) takeTool(of, step);
    else toast('info', 'Select a Roto step, or a zone in shapes, first.');
  },
});

function nearestKey(session: ShotSession, direction: 1 | -1): void {
  const step = limited(session)?.step;
  const at = view.get().frame;
  const frames = step ? keyFramesOf(step) : [];
  const next = frames.filter((f) => (f - at) * direction > 0).sort((a, b) => (a - b) * direction)[0];
  if (next !== undefined) go(session, next);
}

function removeSelected(session: ShotSession, bench: Bench): void {
  const { selection } = view.get();
  const chosen = chosenSteps(session.store.getState().shot);
  if (chosen.length > 1) {
    const change: commands.Change = (s) => chosen.forEach((x) => commands.removeStep(x.id)(s));
    attempt(session, `Delete ${chosen.length} steps`, change);
    view.set({ selection: null });
    return toast('info', `${chosen.length} steps were deleted.`, { label: 'Undo', run: () => session.undo() });
  }
  const crossing = view.get().crossing;
  const lens = selectedReading(session.store.getState().shot);
  if (lens?.kind === 'lens' && crossing) {
    view.set({ crossing: null });
    return void changeAndSolve(bench, lens.id, 'Throw out crossing', countCrossings(lens.id, crossing.frame, [crossing], false));
  }
  if (lens?.kind === 'camera' && view.get().tracks.length > 0) return removeChosenTracks(bench, lens.id);
  if (selection) deleteThing(session, selection);
}

/** A lane that starts from nothing, selected; its id, or null where it is refused. */
export function newEmptyLane(session: ShotSession): string | null {
  const made: { lane?: string } = {};
  attempt(session, 'New empty lane', commands.emptyLane(made));
  if (!made.lane) return null;
  view.set({ selection: { kind: 'lane', id: made.lane }, tab: 'lanes' });
  return made.lane;
}

/** Asks how the screen is keyed; without a lane there is nothing to ask. */
function keyScreenOf(session: ShotSession): void {
  if (session.store.getState().shot.lanes.length > 0) view.set({ dialog: 'keyScreen' });
  else toast('info', 'There is no lane to key yet: drag a plate from Sources to the lanes.');
}

/** Everything there is to do, in the groups of the shortcuts page. */
export const GROUPS: readonly { title: string; actions: readonly Action[] }[] = [
  {
    title: 'Board',
    actions: [
      ...([-1, 1] as const).map((by): Action => ({
        title: by < 0 ? 'Move the lane to the front by one' : 'Move the lane to the back by one',
        keys: [by < 0 ? 'Alt+↑' : 'Alt+↓'],
        run: (s) => {
          const { selection } = view.get();
          if (selection?.kind === 'lane') attempt(s, 'Move lane', commands.moveInStack(selection.id, by));
        },
      })),
      { title: 'Gather the chosen steps into a zone', keys: ['Shift+G'], run: gatherChosen },
      { title: 'Dissolve the selected zone', keys: [], run: dissolveSelected },
      { title: 'New empty lane', keys: ['Shift+E'], run: (s) => void newEmptyLane(s) },
      {
        title: 'Rename the selected lane, step or zone',
        keys: ['F2'],
        run: () => {
          const { selection } = view.get();
          if (selection?.kind === 'lane' || selection?.kind === 'step' || selection?.kind === 'zone') view.set({ renaming: selection.id });
        },
      },
      { title: 'Delete what is selected', keys: ['Delete'], run: removeSelected },
      { title: 'Copy steps or lane', keys: ['Ctrl+C'], run: copySelected },
      { title: 'Paste steps or lanes', keys: ['Ctrl+V'], run: pasteCopied },
    ],
  },
  {
    title: 'Steps and keys',
    actions: [
      { title: 'Add a step after the selected', keys: ['/'], run: () => view.set({ dialog: 'addStep' }) },
      {
        title: 'Step or zone on or off',
        keys: ['Q'],
        run: (s) => {
          const { selection } = view.get();
          const zone = selection?.kind === 'zone' ? commands.findZone(s.store.getState().shot, selection.id)?.zone : null;
          if (zone) return attempt(s, zone.on ? 'Zone off' : 'Zone on', commands.changeStep(zone.id, { on: !zone.on }));
          const chosen = chosenSteps(s.store.getState().shot);
          const on = !chosen[0]?.on;
          const many = chosen.length > 1 ? `${chosen.length} steps` : 'Step';
          if (chosen.length) attempt(s, `${many} ${on ? 'on' : 'off'}`, (d) => chosen.forEach((x) => commands.changeStep(x.id, { on })(d)));
        },
      },
      {
        title: 'Brush with the selected step',
        keys: ['Shift+P'],
        run: (s) => {
          const step = selected(s.store.getState().shot)?.step;
          const brushing = step ? brushingOf(step) : null;
          if (!brushing) return toast('info', 'The selected step has no brush; Paint and Edge detail have one.');
          toggleBrush(s.store.getState().shot, brushing);
        },
      },
      { title: 'Previous key', keys: [','], run: (s) => nearestKey(s, -1) },
      { title: 'Next key', keys: ['.'], run: (s) => nearestKey(s, 1) },
      {
        title: 'Hide a mark',
        keys: ['H'],
        run: (s) => {
          if (s.store.getState().shot.lanes.length === 0) return toast('info', 'There is no picture yet: drag a source to the lanes.');
          view.set({ drawing: { kind: 'hide' }, picking: null, brushing: null, playing: false });
        },
      },
      {
        title: 'Remove this',
        keys: ['X'],
        run: (s) => {
          if (s.store.getState().shot.lanes.length === 0) return toast('info', 'There is no picture yet: drag a source to the lanes.');
          removing.start();
        },
      },
      { title: 'Key a screen', keys: ['K'], run: (s) => keyScreenOf(s) },
      { title: 'Recipes', keys: ['Shift+R'], run: () => view.set({ dialog: 'recipes' }) },
      { title: 'Carry this look on to other shots', keys: [], run: () => view.set({ dialog: 'carry' }) },
    ],
  },
  {
    title: 'Shapes',
    actions: [
      tool('Draw a shape by the pen', ['D'], 'pen'),
      tool('Draw a shape by hand', ['Shift+D'], 'free'),
      tool('Draw an ellipse', [], 'ellipse'),
      tool('Draw a box', [], 'box'),
      tool('Push points of the chosen shape', ['U'], 'push'),
      {
        title: 'Choose the next shape',
        keys: ['Shift+S'],
        run: (s) => {
          const list = shapesIn(limited(s)?.step ?? { type: '', params: {} });
          const at = list.findIndex((x) => x.id === shaping.get().shape);
          if (list.length > 0) shaping.choose(list[(at + 1) % list.length]!.id);
        },
      },
    ],
  },
  {
    title: 'Picture',
    actions: [
      {
        title: 'See the picture after the selected step',
        keys: ['V'],
        run: (s) => {
          const found = selected(s.store.getState().shot);
          if (!found) return;
          const on = view.get().seen?.after === found.step.id;
          view.set({ seen: on ? null : { lane: found.lane.id, after: found.step.id }, layer: '' });
        },
      },
      { title: 'Probe the picture', keys: ['P'], run: () => view.set({ probing: !view.get().probing, probe: null }) },
      {
        title: 'Work out one area only, or all',
        keys: ['Shift+O'],
        run: () => view.set({ areaing: !view.get().area, area: null, probing: false }),
      },
      { title: 'Filmstrip', keys: ['Shift+F'], run: () => view.set({ filmstrip: !view.get().filmstrip }) },
      channel('Red, or colour again', 'R', 'R'),
      channel('Green, or colour again', 'G', 'G'),
      channel('Blue, or colour again', 'Shift+B', 'B'),
      channel('Alpha, or colour again', 'A', 'A'),
      channel('Luma, or colour again', 'L', 'luma'),
      { title: 'Fit the picture', keys: ['F'], run: () => view.set({ zoom: 'fit' }) },
      { title: 'Show at 100 %', keys: ['Z'], run: () => view.set({ zoom: 1, centre: [0, 0] }) },
      { title: 'View half a stop darker', keys: ['['], run: () => view.set({ exposure: view.get().exposure - 0.5 }) },
      { title: 'View half a stop brighter', keys: [']'], run: () => view.set({ exposure: view.get().exposure + 0.5 }) },
      { title: 'Reset viewing exposure', keys: ['\\'], run: () => view.set({ exposure: 0 }) },
      { title: 'Stage fills the window', keys: ['Shift+Z'], run: () => view.set({ full: !view.get().full }) },
      { title: 'See the result', keys: [], run: () => view.set({ seen: null, layer: '' }) },
    ],
  },
  {
    title: 'Compare',
    actions: [
      ...[0, 1, 2, 3].flatMap((slot): Action[] => [
        { title: `Show pinned view ${slot + 1}`, keys: [`Alt+${slot + 1}`], run: () => recallPin(slot) },
        {
          title: `Pin what is seen as view ${slot + 1}`,
          keys: [`Alt+Shift+${slot + 1}`],
          run: (_, bench) => {
            pinSeen(bench, slot, false);
            toast('info', `Pinned as view ${slot + 1}; Alt+${slot + 1} shows it, Compare sets it against what is seen.`);
          },
        },
      ]),
      { title: 'Compare by wipe, or not', keys: ['Shift+C'], run: (_, bench) => toggleWipe(bench) },
    ],
  },
  {
    title: 'Readings',
    actions: [
      {
        title: 'Click a point to follow',
        keys: ['T'],
        run: () => view.set({ drawing: { kind: 'point' }, dock: 'readings', picking: null }),
      },
      {
        title: 'Click around a plane to follow',
        keys: ['Shift+T'],
        run: () => view.set({ drawing: { kind: 'plane' }, dock: 'readings', picking: null }),
      },
      { title: 'New lens, from a chart or straight lines', keys: [], run: (_, bench) => newLens(bench) },
      { title: 'New camera, from tracks', keys: [], run: (_, bench) => newCamera(bench) },
      { title: 'New lesson, taught by a few frames', keys: [], run: (_, bench) => newLessonIn(bench) },
      {
        title: 'Measure the selected reading',
        keys: ['M'],
        run: (s, bench) => {
          const reading = selectedReading(s.store.getState().shot);
          if (reading) viewOf(reading).measure(bench, reading);
        },
      },
      {
        title: 'Measure again from this frame',
        keys: ['Shift+M'],
        run: (s, bench) => {
          const reading = selectedReading(s.store.getState().shot);
          if (isTrack(reading)) void measureAgainFrom(bench, reading, view.get().frame);
        },
      },
      {
        title: 'Lay this frame of the reading between its neighbours',
        keys: ['Shift+N'],
        run: (s) => {
          const reading = selectedReading(s.store.getState().shot);
          if (isTrack(reading)) attempt(s, 'Interpolate', interpolateFrame(reading.id, view.get().frame));
        },
      },
      {
        title: 'Next frame of the reading to look at',
        keys: ['N'],
        run: (s) => {
          const reading = selectedReading(s.store.getState().shot);
          const flagged = (reading?.frames ?? []).filter((f) => f.flag).map((f) => f.frame);
          const next = flagged.find((f) => f > view.get().frame) ?? flagged[0];
          if (next !== undefined) go(s, next);
          else toast('info', reading ? 'No frame of it is flagged.' : 'Select a reading first.');
        },
      },
      {
        title: 'Suggest details to follow',
        keys: [],
        run: () => view.set({ drawing: { kind: 'suggest' }, dock: 'readings', picking: null }),
      },
    ],
  },
  {
    title: 'Time',
    actions: [
      { title: 'Play or pause', keys: ['Space'], run: () => view.set({ playing: !view.get().playing }) },
      { title: 'Frame back', keys: ['←'], run: (s) => go(s, view.get().frame - 1) },
      { title: 'Frame on', keys: ['→'], run: (s) => go(s, view.get().frame + 1) },
      { title: 'Ten frames back', keys: ['Shift+←'], run: (s) => go(s, view.get().frame - 10) },
      { title: 'Ten frames on', keys: ['Shift+→'], run: (s) => go(s, view.get().frame + 10) },
      { title: 'First frame', keys: ['Home'], run: (s) => go(s, -Infinity) },
      { title: 'Last frame', keys: ['End'], run: (s) => go(s, Infinity) },
      {
        title: 'Play from this frame',
        keys: ['I'],
        run: (s) => {
          const { inOut, frame } = view.get();
          view.set({ inOut: { first: frame, last: Math.max(frame, inOut?.last ?? s.store.getState().shot.range.last) } });
        },
      },
      {
        title: 'Play to this frame',
        keys: ['O'],
        run: (s) => {
          const { inOut, frame } = view.get();
          view.set({ inOut: { first: Math.min(frame, inOut?.first ?? s.store.getState().shot.range.first), last: frame } });
        },
      },
      { title: 'Play the whole range', keys: ['Shift+I'], run: () => view.set({ inOut: null }) },
    ],
  },
  {
    title: 'Shot',
    actions: [
      { title: 'Search anything', keys: ['Ctrl+K'], run: () => view.set({ dialog: 'search' }) },
      { title: 'Undo', keys: ['Ctrl+Z'], run: (s) => void s.undo() },
      { title: 'Redo', keys: ['Ctrl+Shift+Z'], run: (s) => void s.redo() },
      { title: 'Export frames', keys: ['Ctrl+E'], run: () => view.set({ dialog: 'export' }) },
      { title: 'Versions', keys: ['Ctrl+S'], run: () => view.set({ dialog: 'versions' }) },
      { title: 'Settings', keys: [], run: () => view.set({ dialog: 'settings' }) },
      { title: 'Format and range', keys: [], run: () => view.set({ dialog: 'format' }) },
      { title: 'Shortcuts', keys: ['?'], run: () => view.set({ dialog: 'shortcuts' }) },
    ],
  },
];

export const ACTIONS: readonly Action[] = GROUPS.flatMap((g) => g.actions);

/** Held, not pressed: looked after by the workbench itself. */
export const HELD: Readonly<Record<string, string>> = { B: 'hold to see before', Space: 'hold and drag to pan, press to play' };

const NAMES: Record<string, string> = { ArrowLeft: '←', ArrowRight: '→', ArrowUp: '↑', ArrowDown: '↓', ' ': 'Space' };

/** The way a key event is written on the shortcuts page. */
export function keyName(e: KeyboardEvent): string {
  const key = NAMES[e.key] ?? (e.key.length === 1 ? e.key.toUpperCase() : e.key);
  // Digits of the upper row keep their name under Shift, on every layout.
  const digit = /^Digit(\d)$/.exec(e.code)?.[1];
  if (digit && (e.shiftKey || e.altKey)) return `${e.altKey ? 'Alt+' : ''}${e.shiftKey ? 'Shift+' : ''}${digit}`;
  // A shifted sign is the sign itself; letters and named keys keep the Shift.
  const shift = e.shiftKey && (/^[A-Z]$/.test(key) || key.length > 1 || key === '←' || key === '→');
  return `${e.ctrlKey || e.metaKey ? 'Ctrl+' : ''}${e.altKey ? 'Alt+' : ''}${shift ? 'Shift+' : ''}${key}`;
}
