'use client';
import type { CameraReading } from '@/core/readings';
import { putThingsIn } from '@/core/commands';
import { useRun } from '../../workbench/context';
import { useView, view } from '../../workbench/state';

/** From a solved camera to things in its shot. */
export function ThingsIn({ reading }: { reading: CameraReading }) {
  const run = useRun();
  const room = useView((s) => s.roomView);
  const put = (): void => {
    const made: { step?: string } = {};
    run('Things in the shot', putThingsIn(reading.id, made));
    if (made.step) view.set({ selection: { kind: 'step', id: made.step }, thing: null, seen: null, dock: 'sources' });
  };
  return (
    <>
      <div className="group">Things in the shot</div>
      <div className="uses">
        <button className="pill" title="A lane with a scene step, joined over this picture" onClick={put}>
          Put things in
        </button>
        <button className={`pill${room ? ' on' : ''}`} aria-pressed={room} onClick={() => view.set({ roomView: !room })}>
          {room ? 'See the picture' : 'See the room'}
        </button>
      </div>
    </>
  );
}
