'use client';
import type { Reading } from '@/core/readings';
import { tapName, useShot } from '../workbench/context';

/** The name of a reading, what it is, and where it is measured. */
export function ReadingHead({ reading, is }: { reading: Reading; is: string }) {
  const shot = useShot();
  return (
    <div className="controls-head">
      <div className="name">
        <b className="ellipsis">{reading.name}</b>
      </div>
      <p>
        {is} <span className="ash">{tapName(shot, reading.from)}</span>
      </p>
    </div>
  );
}
