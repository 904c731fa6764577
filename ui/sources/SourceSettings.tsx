'use client';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { SPACES, SPACE_NAMES } from '@/core/colour';
import type { AlphaKind, ColourSpace, Missing, Source } from '@/core/document';
import { SAID, attributeOf, gapsIn, isPicture, ownRateOf, spanOf, usedFrames, wholeFrames } from '@/core/document';
import { idLayers } from '@/core/formats';
import { layersOf, splitChannel } from '@/core/picture';
import { rangesText } from '@/engine';
import { sizeText } from '@/store';
import { commands } from '@/core/commands';
import { WarningAmberIcon } from '@/ui/theme/icons';
import { NumberField } from '../controls/NumberField';
import { JobRow } from '../jobs/Jobs';
import { startJob, useJob } from '../jobs/jobs';
import { toast, toastError } from '../theme/toast';
import { useBench, useRun, useShot } from '../workbench/context';

type Change = commands.SourceChange;

/** How a source is understood, what its header says, and which of its frames are used. */
export function SourceSettings({ source, onLayers }: { source: Source; onLayers(): void }) {
  const run = useRun();
  const set = (change: Change): void => void run('Change source', commands.changeSource(source.id, change));
  const lut = !isPicture(source);
  return (
    <div className="source-settings">
      <label>{source.kind === 'lut' ? 'Table' : source.kind === 'model' ? 'Model' : 'Size'}</label>
      <span className="mono">
        {lut
          ? (attributeOf(source, source.kind === 'model' ? SAID.model : SAID.table) ?? source.container)
          : `${source.format.width}×${source.format.height} · ${source.container}`}
      </span>
      {!lut && <Channels source={source} onLayers={onLayers} />}
      {source.kind !== 'model' && (
        <Choice<ColourSpace>
          label={lut ? 'Takes' : 'Colour'}
          value={source.colourSpace}
          options={SPACE_NAMES.map((s) => [s, SPACES[s].title])}
          onChange={(colourSpace) => set({ colourSpace })}
        />
      )}
      {source.colourReason && source.kind !== 'model' && (
        <>
          <span />
          <small className="dust">A guess: {source.colourReason}.</small>
        </>
      )}
      {!lut && (
        <Choice<AlphaKind>
          label="Alpha"
          value={source.alpha}
          options={[
            ['premultiplied', 'Premultiplied'],
            ['straight', 'Straight'],
            ['ignore', 'Ignored: solid'],
            ['luma', 'From luma: an element on black'],
          ]}
          onChange={(alpha) => set({ alpha })}
        />
      )}
      {source.alphaDoubt && (
        <>
          <span />
          <small className="doubt">
            <WarningAmberIcon sx={{ fontSize: 13 }} /> {source.alphaDoubt}.
          </small>
        </>
      )}
      {(source.kind === 'sequence' || source.kind === 'movie') && <Timing source={source} set={set} />}
      {source.kind === 'still' && <StillTiming source={source} set={set} />}
      {!lut && <ProxyRow source={source} />}
      <Header source={source} />
    </div>
  );
}

/** "R G B A · diffuse: R G B · Z" */
const layersText = (channels: readonly string[]): string =>
  layersOf(channels)
    .map((layer) => {
      const own = channels.filter((c) => splitChannel(c).layer === layer).map((c) => splitChannel(c).channel);
      return layer ? `${layer}: ${own.join(' ')}` : own.join(' ');
    })
    .join(' · ');

function Channels({ source, onLayers }: { source: Source; onLayers(): void }) {
  const layers = layersOf(source.channels).length;
  const ids = idLayers(Object.fromEntries(source.attributes ?? []), source.channels);
  return (
    <>
      <label>Channels</label>
      {layers > 1 ? (
        <Button variant="outlined" onClick={onLayers}>
          {layers} layers
        </Button>
      ) : (
        <span className="dust">{layersText(source.channels)}</span>
      )}
      {ids.map((l) => (
        <IdLine key={l.name} name={l.name} objects={Object.values(l.manifest)} />
      ))}
    </>
  );
}

const IdLine = ({ name, objects }: { name: string; objects: readonly string[] }) => (
  <>
    <label>ID matte</label>
    <span className="dust" title={objects.join(', ')}>
      {name}: {objects.length ? `${objects.length} named things` : 'no names in the header'}
    </span>
  </>
);

function Timing({ source, set }: { source: Source; set(c: Change): void }) {
  const shot = useShot();
  const whole = wholeFrames(source);
  const used = usedFrames(source);
  const span = spanOf(source, shot.frameRate);
  const trim = (first: number, last: number): void => set({ trim: { first, last } });
  const frames = source.frames ?? [];
  const gaps = source.kind === 'movie' ? [] : gapsIn(frames, whole.first, whole.last);
  const odd = frames.filter((f) => f.size);
  return (
    <>
      <label title={`It has frames ${whole.first} to ${whole.last}`}>Frames</label>
      <div className="inline">
        <NumberField
          label="First frame used"
          value={used.first}
          min={whole.first}
          max={used.last}
          whole
          step={1}
          onChange={(f) => trim(f, used.last)}
        />
        –
        <NumberField
          label="Last frame used"
          value={used.last}
          min={used.first}
          max={whole.last}
          whole
          step={1}
          onChange={(l) => trim(used.first, l)}
        />
      </div>
      {gaps.length > 0 && <Doubt label="Gaps" text={rangesText(gaps)} />}
      {odd.length > 0 && <Doubt label="Odd" text={odd.map((f) => `${f.name} is ${f.size!.join('×')}`).join(', ')} />}
      {source.kind === 'sequence' && (
        <Choice<Missing>
          label="Missing"
          value={source.missing}
          options={[
            ['error', 'Report as missing'],
            ['hold', 'Hold the one before'],
            ['black', 'Black'],
          ]}
          onChange={(missing) => set({ missing })}
        />
      )}
      <label>Starts at</label>
      <div className="inline">
        <NumberField label="Starts at" value={source.start} whole step={1} onChange={(start) => set({ start })} />
        <small className="dust" style={{ whiteSpace: 'nowrap' }}>
          ends at {span.last}
        </small>
      </div>
      <label>Rate</label>
      <div className="inline">
        <Select
          size="small"
          value={source.rate === undefined ? 'frames' : 'own'}
          inputProps={{ 'aria-label': 'Rate' }}
          onChange={(e) => set({ rate: e.target.value === 'own' ? (ownRateOf(source) ?? shot.frameRate) : undefined })}
        >
          <MenuItem value="frames">Frame by frame</MenuItem>
          <MenuItem value="own">Its own time</MenuItem>
        </Select>
        {source.rate !== undefined && (
          <NumberField
            label="Frames a second"
            value={source.rate}
            min={0.1}
            max={1000}
            decimals={3}
            step={1}
            onChange={(rate) => set({ rate })}
          />
        )}
      </div>
    </>
  );
}

function StillTiming({ source, set }: { source: Source; set(c: Change): void }) {
  const shot = useShot();
  const always = source.duration === undefined;
  const { first, last } = shot.range;
  return (
    <>
      <label>There</label>
      <div className="inline">
        <Select
          size="small"
          value={always ? 'always' : 'span'}
          inputProps={{ 'aria-label': 'There' }}
          onChange={(e) => set(e.target.value === 'always' ? { duration: undefined } : { start: first, duration: last - first + 1 })}
        >
          <MenuItem value="always">Always</MenuItem>
          <MenuItem value="span">For some frames</MenuItem>
        </Select>
      </div>
      {!always && (
        <>
          <label>From, for</label>
          <div className="inline">
            <NumberField label="Starts at" value={source.start} whole step={1} onChange={(start) => set({ start })} />
            <NumberField
              label="Duration"
              value={source.duration!}
              min={1}
              max={1_000_000}
              whole
              step={1}
              onChange={(duration) => set({ duration })}
            />
          </div>
        </>
      )}
    </>
  );
}

function ProxyRow({ source }: { source: Source }) {
  const { viewer } = useBench();
  const title = `Proxies of ${source.name}`;
  const job = useJob('proxy', title);
  const make = async (scale: number): Promise<void> => {
    const { first, last } = source.kind === 'still' ? { first: 1, last: 1 } : usedFrames(source);
    const has = new Set(source.frames?.map((f) => f.frame));
    const wanted = Array.from({ length: last - first + 1 }, (_, i) => first + i).filter((f) => source.kind === 'movie' || has.has(f));
    const running = startJob('proxy', title, 'frames', wanted.length);
    let [done, bytes] = [0, 0];
    const queue = [...wanted];
    const work = async (): Promise<void> => {
      for (let f = queue.shift(); f !== undefined; f = queue.shift()) {
        bytes += await viewer.pool.makeProxy(source, f, scale, running.signal);
        running.tell(++done, wanted.length);
      }
    };
    try {
      await Promise.all(Array.from({ length: viewer.pool.size }, work));
      toast('info', `${done} frames of "${source.name}" are kept at ${scale === 0.5 ? '½' : '¼'} size, ${sizeText(bytes)} in all.`);
    } catch (e) {
      if (!running.signal.aborted) toastError(e);
    } finally {
      running.end();
    }
  };
  return (
    <>
      <label>Make proxy</label>
      {job ? (
        <JobRow job={job} />
      ) : (
        <div className="inline">
          <Button variant="outlined" title="Smaller copies, ready for work at ½ size" onClick={() => void make(0.5)}>
            ½ size
          </Button>
          <Button variant="outlined" title="Smaller copies, ready for work at ¼ size" onClick={() => void make(0.25)}>
            ¼ size
          </Button>
        </div>
      )}
    </>
  );
}

function Header({ source }: { source: Source }) {
  const shown = (source.attributes ?? []).filter(([name]) => !name.startsWith('cryptomatte/') && name !== SAID.table);
  if (shown.length === 0) return null;
  return (
    <details className="header-facts">
      <summary>Header</summary>
      {shown.map(([name, value], i) => (
        <div key={i}>
          <span className="dust">{name}</span> <span className="mono">{value.length > 200 ? `${value.slice(0, 200)}…` : value}</span>
        </div>
      ))}
    </details>
  );
}

/** Something about a source that wants a look. */
const Doubt = ({ label, text }: { label: string; text: string }) => (
  <>
    <label>{label}</label>
    <small className="doubt">
      <WarningAmberIcon sx={{ fontSize: 13 }} /> {text}
    </small>
  </>
);

interface ChoiceProps<T extends string> {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange(value: T): void;
}

function Choice<T extends string>({ label, value, options, onChange }: ChoiceProps<T>) {
  return (
    <>
      <label>{label}</label>
      <Select size="small" value={value} inputProps={{ 'aria-label': label }} onChange={(e) => onChange(e.target.value as T)}>
        {options.map(([v, text]) => (
          <MenuItem key={v} value={v}>
            {text}
          </MenuItem>
        ))}
      </Select>
    </>
  );
}
