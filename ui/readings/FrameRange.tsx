'use client';
import type { Reading } from '@/core/readings';
import { changeReading } from '@/core/commands';
import { NumberField } from '../controls/NumberField';
import { useRun } from '../workbench/context';
import { Row } from './rows';

/** The frames over which a reading is measured. */
export function FrameRange({ reading: { id, range } }: { reading: Reading }) {
  const run = useRun();
  return (
    <Row title="Frames">
      <span className="inline">
        {(['first', 'last'] as const).map((end) => (
          <NumberField
            key={end}
            label={`${end === 'first' ? 'First' : 'Last'} frame measured`}
            value={range[end]}
            whole
            min={-1_000_000}
            max={1_000_000}
            step={1}
            onChange={(v) => run('Frames', changeReading(id, { range: { ...range, [end]: v } }))}
            onProblem={() => undefined}
          />
        ))}
      </span>
    </Row>
  );
}
