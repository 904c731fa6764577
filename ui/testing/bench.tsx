import { DndContext, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import createCache from '@emotion/cache';
import { CacheProvider } from '@emotion/react';
import { cleanup, configure, render, screen } from '@testing-library/react';
import type { UserEvent } from '@testing-library/user-event';
import userEvent from '@testing-library/user-event';
import type { ReactElement } from 'react';
import type { Lane, Shot, Step } from '@/core/document/types';
import type { Viewer } from '@/engine/browser/viewer';
import { addLane, addSource, addStep, newShot } from '@/core/commands';
import type { ShotSession } from '@/store/shot-store';
import { openShot } from '@/store/shot-store';
import { stillSource } from '@/core/testing/sources';
import { ThemeProvider } from '@mui/material/styles';
import { theme } from '../theme/theme';
import { ToastHost } from '../theme/toast';
import type { Bench } from '../workbench/context';
import { BenchProvider } from '../workbench/context';
import type { ViewState } from '../workbench/state';
import { view } from '../workbench/state';

const opened: ShotSession[] = [];

/** A shot with a lane "keeper" over "harbour", as the steps' types say. It saves itself as any shot does, until its file of tests ends. */
export function shotWith(...types: string[]): ShotSession {
  const session = openShot({ ...newShot('Saltgate'), range: { first: 1, last: 48 } });
  opened.push(session);
  for (const name of ['harbour', 'keeper']) {
    session.run('source', addSource(stillSource(`src-${name}`, name)));
    session.run('lane', addLane(`src-${name}`));
  }
  const lane = laneOf(session, 'keeper');
  types.forEach((type) => session.run('step', addStep(lane.id, type, undefined)));
  return session;
}

export const shotOf = (session: ShotSession): Shot => session.store.getState().shot;
export function laneOf(session: ShotSession, name: string): Lane {
  const lane = shotOf(session).lanes.find((l) => l.name === name);
  if (!lane) throw new Error(`no lane ${name}`);
  return lane;
}
export const stepOf = (session: ShotSession, type: string): Step => {
  const step = shotOf(session)
    .lanes.flatMap((l) => l.steps)
    .find((s) => s.type === type);
  if (!step) throw new Error(`no step ${type}`);
  return step;
};

/** What a browser has and this page under test has not: presses that are captured. */
class Press extends MouseEvent {
  readonly pointerId: number;
  constructor(type: string, init: PointerEventInit = {}) {
    super(type, init);
    this.pointerId = init.pointerId ?? 1;
  }
}
window.PointerEvent ??= Press as unknown as typeof PointerEvent;
HTMLElement.prototype.setPointerCapture ??= () => undefined;
HTMLElement.prototype.releasePointerCapture ??= () => undefined;

// What comes a moment later may come much later where much else is done.
configure({ asyncUtilTimeout: 30_000 });

/** What was told last at the foot of the page, or beside a field. */
export const lastAlert = (): HTMLElement => screen.getAllByRole('alert').at(-1)!;

/** Puts a text in the place of a field's own, and says that it is done. */
export async function retype(user: UserEvent, field: Element, text: string): Promise<void> {
  await user.click(field);
  await user.clear(field);
  await user.type(field, `${text}{Enter}`);
}

/** Pictures are never there: whoever asks for one waits. */
const never = new Promise<never>(() => undefined);
const empty = { hits: 0, misses: 0, bytes: 0, budget: 0 };
const nothing = {
  fetch: () => never,
  show: () => never,
  cached: () => undefined,
  nearest: () => undefined,
  hold: () => undefined,
  release: () => undefined,
  keep: () => undefined,
  fetchToKeep: () => never,
  figures: () => ({ frames: empty, results: { ...empty, reserved: 0 }, memory: 0 }),
  pool: { size: 2 },
  setBudget: () => undefined,
};
const viewer = { ...nothing } as unknown as Viewer;
/** Ends what a file of tests has begun: its shots, and what stands in the place of the viewer's doings. */
export async function leaveBench(): Promise<void> {
  Object.assign(viewer, nothing);
  await Promise.all(opened.splice(0).map((session) => session.close()));
}

export const benchOf = (session: ShotSession): Bench => ({ session, viewer });

/** What is dragged begins to move after some pixels, as on the workbench: a press alone is a click. */
function Board({ children }: { children: ReactElement }) {
  return <DndContext sensors={useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }))}>{children}</DndContext>;
}

/** Styles go where they style nothing: the page of these tests has no layout, and looks at each rule for each element that it is asked for. */
const styles = createCache({ key: 'css', container: document.createElement('div') });

/** Shows a part of the workbench on a shot, with the view as it is when a shot is opened but for what is changed. */
export function showBench(session: ShotSession, part: ReactElement, change: Partial<ViewState> = {}) {
  cleanup();
  view.reset(1);
  view.set(change);
  const user = userEvent.setup();
  const shown = render(
    <CacheProvider value={styles}>
      <ThemeProvider theme={theme}>
        <BenchProvider value={{ session, viewer }}>
          <Board>{part}</Board>
          <ToastHost />
        </BenchProvider>
      </ThemeProvider>
    </CacheProvider>,
  );
  return { user, ...shown };
}
