'use client';
import { useLayoutEffect, useRef, useState } from 'react';
import type { Shot } from '@/core/document';
import type { Remark } from '@/core/evaluate';
import { useView, view } from '../workbench/state';

const NAMES = 128;
const NAME_LENGTH = 20;
const GAP = 3;
const CHIP = { least: 6, most: 96 };
/** Width from which a mark can hold its name. */
const NAMED = 60;
const ROW = { least: 7, most: 22 };

const short = (text: string, most: number): string => (text.length > most ? `${text.slice(0, Math.floor(most) - 1)}…` : text);

interface Props {
  shot: Shot;
  remarks: readonly Remark[];
  /** A lane was chosen: the board shows it at its full size again. */
  onGo(lane: string): void;
}

/** The whole board on one screen, whatever its size: a mark a step. A click selects and goes there. */
export function Overview({ shot, remarks, onGo }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 800, height: 200 });
  const selection = useView((s) => s.selection);
  useLayoutEffect(() => {
    const { clientWidth: width, clientHeight: height } = box.current!;
    setSize({ width, height });
  }, []);
  const most = Math.max(1, ...shot.lanes.map((l) => l.steps.length));
  const row = Math.min(ROW.most, Math.max(ROW.least, size.height / Math.max(1, shot.lanes.length)));
  const chip = Math.min(CHIP.most, Math.max(CHIP.least, (size.width - NAMES - 20) / most - GAP));
  const warned = new Set(remarks.map((r) => r.step));
  const bringsTo = (lane: string): number =>
    shot.lanes.findIndex((l) => l.steps.some((s) => s.type === 'join' && s.feeds.front?.lane === lane));
  return (
    <div ref={box} className="overview" role="group" aria-label="Overview">
      <svg width={NAMES + 20 + most * (chip + GAP)} height={shot.lanes.length * row}>
        {shot.lanes.map((lane, i) => {
          const to = bringsTo(lane.id);
          return (
            <g key={lane.id} transform={`translate(0 ${i * row})`}>
              <text
                x={0}
                y={row / 2}
                className={lane.id === shot.result ? 'result' : ''}
                style={{ fontSize: Math.min(11, row) }}
                onClick={() => {
                  view.set({ selection: { kind: 'lane', id: lane.id } });
                  onGo(lane.id);
                }}
              >
                {short(lane.name, NAME_LENGTH)}
                <title>{lane.name}</title>
              </text>
              {to >= 0 && <path className="tie" d={`M${NAMES} ${row / 2}v${(to - i) * row}h10`} />}
              {lane.steps.map((step, k) => (
                <g key={step.id}>
                  <rect
                    className={[
                      selection?.kind === 'step' && selection.id === step.id ? 'selected' : '',
                      step.on && !lane.muted ? '' : 'off',
                      step.type === 'join' ? 'join' : '',
                      warned.has(step.id) ? 'warned' : '',
                    ].join(' ')}
                    x={NAMES + 16 + k * (chip + GAP)}
                    y={1}
                    width={chip}
                    height={row - 2}
                    onClick={() => {
                      view.set({ selection: { kind: 'step', id: step.id } });
                      onGo(lane.id);
                    }}
                  >
                    <title>{`${lane.name} ▸ ${step.name}`}</title>
                  </rect>
                  {chip >= NAMED && (
                    <text className="in" x={NAMES + 21 + k * (chip + GAP)} y={row / 2}>
                      {short(step.name, chip / 6.5)}
                    </text>
                  )}
                </g>
              ))}
            </g>
          );
        })}
      </svg>
    </div>
  );
}
