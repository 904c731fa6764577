'use client';
import type { Reading } from '@/core/readings';
import { READING_CHANNELS } from '@/core/readings';
import { changeReading } from '@/core/commands';
import { FeedField } from '../controls/FeedField';
import { useRun } from '../workbench/context';
import { Choice, Row } from './rows';

/** The picture that a reading is measured in, and the channel of it. */
export function MeasuredIn({ reading: { id, from, channel }, help }: { reading: Reading; help: string }) {
  const run = useRun();
  return (
    <>
      <FeedField
        title="Measured in"
        help={help}
        step={id}
        tap={from}
        matte={false}
        onTap={(tap) => tap && run('Measure in', changeReading(id, { from: tap }))}
      />
      <Row title="Channel">
        <Choice label="Channel" value={channel} options={READING_CHANNELS} set={(v) => run('Channel', changeReading(id, { channel: v }))} />
      </Row>
    </>
  );
}
