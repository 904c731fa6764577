'use client';
import type { ReactNode } from 'react';
import { useState } from 'react';
import type { Zone } from '@/core/document';
import { isKeyed } from '@/core/document';
import { commands } from '@/core/commands';
import { copySelected } from '../workbench/copying';
import { useBench, useRun } from '../workbench/context';
import { deleteThing } from '../workbench/deleting';
import { RowMenu } from '../workbench/RowMenu';
import { useView, view } from '../workbench/state';
import { dissolveSelected } from '../workbench/zones';
import { Renamable } from './Renamable';

/** A zone as drawn on a lane: a bracket over its chips with its name, by which it is chosen and dragged. */
export function ZoneBracket({ zone, children }: { zone: Zone; children: ReactNode }) {
  const run = useRun();
  const { session } = useBench();
  const selected = useView((s) => s.selection?.kind === 'zone' && s.selection.id === zone.id);
  const renaming = useView((s) => s.renaming === zone.id);
  const setRenaming = (on: boolean): void => view.set({ renaming: on ? zone.id : null });
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const select = (): void => view.set({ selection: { kind: 'zone', id: zone.id } });
  const keyed = [...Object.values(zone.params), zone.mix].some(isKeyed);
  return (
    <span className={`zone${selected ? ' selected' : ''}${zone.on ? '' : ' off'}`} data-testid={`zone ${zone.name}`}>
      <button
        className="zone-name"
        data-zone={zone.id}
        data-label={zone.name}
        aria-pressed={selected}
        onClick={select}
        onContextMenu={(e) => {
          e.preventDefault();
          select();
          setMenu(e.currentTarget);
        }}
      >
        <Renamable
          name={zone.name}
          editing={renaming}
          onEdit={setRenaming}
          onName={(name) => run('Rename zone', commands.changeStep(zone.id, { name }))}
        />
        {zone.mask && <span className="notch" aria-label="masked" />}
        {keyed && <span className="d" aria-label="keyed" />}
      </button>
      {children}
      <RowMenu
        anchor={menu}
        onClose={() => setMenu(null)}
        entries={[
          [
            zone.on ? 'Switch off (Q)' : 'Switch on (Q)',
            () => run(zone.on ? 'Zone off' : 'Zone on', commands.changeStep(zone.id, { on: !zone.on })),
          ],
          ['Rename', () => setRenaming(true)],
          ['Copy (Ctrl+C)', () => copySelected(session)],
          ['Carry on to other shots', () => view.set({ dialog: 'carry' })],
          ['Dissolve: its steps stay', () => dissolveSelected(session)],
          ['Delete with its steps', () => deleteThing(session, { kind: 'zone', id: zone.id })],
        ]}
      />
    </span>
  );
}
