'use client';
import IconButton from '@mui/material/IconButton';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import Tooltip from '@mui/material/Tooltip';
import { LoopIcon, NavigateBeforeIcon, NavigateNextIcon, PauseIcon, PlayArrowIcon, SkipNextIcon, SkipPreviousIcon } from '@/ui/theme/icons';
import { useRemarks } from '../lanes/Lanes';
import { useShotPart, useShotState } from '../workbench/context';
import { useShallow } from 'zustand/react/shallow';
import type { ViewState } from '../workbench/state';
import { useView, view } from '../workbench/state';
import { playRange } from '../workbench/use-picture';
import { CachePanel } from './CachePanel';
import { useReady } from './ready';

const NEXT_LOOP: Record<ViewState['loop'], ViewState['loop']> = { loop: 'bounce', bounce: 'once', once: 'loop' };

export function Transport() {
  const shot = { range: useShotPart('range'), notes: useShotPart('notes'), frameRate: useShotPart('frameRate') };
  const readings = useShotState((x) => x.shot.readings.length);
  const { playing, loop, pace, tab, inOut } = useView(
    useShallow(({ playing, loop, pace, tab, inOut }) => ({ playing, loop, pace, tab, inOut })),
  );
  const { ready, fps, dropped } = useReady();
  const remarks = useRemarks();
  const open = shot.notes.filter((n) => !n.done).length;
  const { first, last } = playRange(shot, inOut);
  const go = (f: number): void => view.set({ frame: Math.min(shot.range.last, Math.max(shot.range.first, f)), playing: false });
  const button = (title: string, Icon: typeof PauseIcon, run: () => void) => (
    <Tooltip title={title}>
      <IconButton aria-label={title} onClick={run}>
        <Icon fontSize="small" />
      </IconButton>
    </Tooltip>
  );
  return (
    <div className="transport">
      <div style={{ display: 'flex' }}>
        {button('First frame (Home)', SkipPreviousIcon, () => go(first))}
        {button('Frame back (←)', NavigateBeforeIcon, () => go(view.get().frame - 1))}
        {button(playing ? 'Pause (Space)' : 'Play (Space)', playing ? PauseIcon : PlayArrowIcon, () => view.set({ playing: !playing }))}
        {button('Frame on (→)', NavigateNextIcon, () => go(view.get().frame + 1))}
        {button('Last frame (End)', SkipNextIcon, () => go(last))}
      </div>
      <FrameField go={go} />
      <span className="mono dust">
        in {first} · out {last}
      </span>
      <Tooltip title={`At the end: ${loop}. Click to change.`}>
        <button className="pill mono" onClick={() => view.set({ loop: NEXT_LOOP[loop] })}>
          <LoopIcon sx={{ fontSize: 13 }} /> {loop}
        </button>
      </Tooltip>
      <Tooltip title="Real time leaves out frames that come too late and counts them; every frame waits for each. Click to change.">
        <button className="pill mono" onClick={() => view.set({ pace: pace === 'time' ? 'every' : 'time' })}>
          {pace === 'time' ? 'real time' : 'every frame'}
        </button>
      </Tooltip>
      <span className="mono" style={{ color: 'var(--glaze)' }} data-testid="ready">
        {fps === null ? `${shot.frameRate} fps` : `${fps.toFixed(1)} of ${shot.frameRate} fps`} · {ready.length}/
        {shot.range.last - shot.range.first + 1} ready
      </span>
      {playing && dropped > 0 && (
        <span className="mono" style={{ color: 'var(--ochre)' }}>
          {dropped} left out
        </span>
      )}
      <CachePanel />
      <span className="grow" />
      <Tabs value={tab === 'readings' && readings === 0 ? false : tab} onChange={(_, v: ViewState['tab']) => view.set({ tab: v })}>
        <Tab value="lanes" label="Lanes" />
        <Tab value="curves" label="Curves" />
        <Tab value="scopes" label="Scopes" />
        <Tab value="meter" label="Meter" />
        <Tab
          value="checks"
          label={<span>Checks {remarks.length > 0 && <span style={{ color: 'var(--ochre)' }}>{remarks.length}</span>}</span>}
        />
        {readings > 0 && <Tab value="readings" label="Readings" />}
        <Tab value="notes" label={<span>Notes {open > 0 && <span style={{ color: 'var(--clay-text)' }}>{open}</span>}</span>} />
      </Tabs>
    </div>
  );
}

function FrameField({ go }: { go(frame: number): void }) {
  const frame = useView((s) => s.frame);
  return (
    <input
      className="num"
      aria-label="Frame"
      key={frame}
      defaultValue={String(frame).padStart(4, '0')}
      onKeyDown={(e) => {
        e.stopPropagation();
        const v = Number(e.currentTarget.value);
        if (e.key === 'Enter' && Number.isInteger(v)) go(v);
      }}
    />
  );
}
