'use client';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Popover from '@mui/material/Popover';
import Slider from '@mui/material/Slider';
import Tooltip from '@mui/material/Tooltip';
import { useEffect, useState } from 'react';
import { messageOf } from '@/core/errors';
import type { CacheFigures } from '@/core/evaluate';
import { defaultSettings, loadSettings, saveSettings } from '@/store';
import { MemoryIcon } from '@/ui/theme/icons';
import { toast } from '../theme/toast';
import { useBench } from '../workbench/context';

const megabytes = (bytes: number): string => `${Math.round(bytes / 2 ** 20)} MB`;

const rate = ({ hits, misses }: CacheFigures): string => (hits + misses === 0 ? '–' : `${Math.round((100 * hits) / (hits + misses))} %`);

/** What the caches hold and how often they were of use, and how much memory they may take. */
export function CachePanel() {
  const { viewer } = useBench();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [figures, setFigures] = useState(() => viewer.figures());
  useEffect(() => {
    const timer = setInterval(() => setFigures(viewer.figures()), 1000);
    return () => clearInterval(timer);
  }, [viewer]);
  const { frames, results, memory } = figures;
  return (
    <>
      <Tooltip title="Memory that pictures take">
        <button className="pill mono" aria-haspopup="dialog" aria-label="Caches" onClick={(e) => setAnchor(e.currentTarget)}>
          <MemoryIcon sx={{ fontSize: 13 }} /> {megabytes(memory)}
        </button>
      </Tooltip>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'top', horizontal: 'center' }}
        transformOrigin={{ vertical: 'bottom', horizontal: 'center' }}
      >
        <div className="cachepanel" role="dialog" aria-label="Caches">
          <Line title="Frames for the screen" figures={frames} />
          <Line title={`Results of steps, in ${viewer.pool.size} workers`} figures={results} />
          <Budget />
          <div style={{ display: 'flex', gap: 12 }}>
            <span className="grow">In use, with what work takes</span>
            <span className="mono" data-testid="memory">
              {megabytes(memory)}
            </span>
          </div>
          <div style={{ display: 'flex', justifyContent: 'end' }}>
            <Button
              onClick={() => {
                viewer.clear();
                setFigures(viewer.figures());
              }}
            >
              Empty the caches
            </Button>
          </div>
        </div>
      </Popover>
    </>
  );
}

function Line({ title, figures }: { title: string; figures: CacheFigures }) {
  return (
    <div>
      <div style={{ display: 'flex', gap: 12 }}>
        <span className="grow">{title}</span>
        <span className="mono">
          {megabytes(figures.bytes)} of {megabytes(figures.budget)}
        </span>
      </div>
      <LinearProgress variant="determinate" value={Math.min(100, (100 * figures.bytes) / Math.max(1, figures.budget))} />
      <small className="dust">
        {rate(figures)} found ({figures.hits} of {figures.hits + figures.misses} times asked)
      </small>
    </div>
  );
}

/** The memory for both, kept for this browser. */
function Budget() {
  const { viewer } = useBench();
  const [value, setValue] = useState<number | null>(null);
  useEffect(() => {
    void loadSettings().then((s) => setValue(s.cacheMegabytes));
  }, []);
  if (value === null) return null;
  const keep = async (cacheMegabytes: number): Promise<void> => {
    try {
      await saveSettings({ ...(await loadSettings()), cacheMegabytes });
      viewer.setBudget(cacheMegabytes * 2 ** 20);
    } catch (e) {
      toast('error', `The size of the caches was not changed: ${messageOf(e)}`);
    }
  };
  const most = Math.max(4096, 2 * defaultSettings().cacheMegabytes);
  return (
    <div>
      <div style={{ display: 'flex', gap: 12 }}>
        <span className="grow">Memory for both</span>
        <span className="mono">{value} MB</span>
      </div>
      <Slider
        size="small"
        aria-label="Memory for both (MB)"
        min={128}
        max={most}
        step={128}
        value={value}
        onChange={(_, v) => setValue(v as number)}
        onChangeCommitted={(_, v) => void keep(v as number)}
      />
    </div>
  );
}
