'use client';
import Button from '@mui/material/Button';
import Link from 'next/link';
import { useEffect, useMemo, useState } from 'react';
import type { Shot } from '@/core/document';
import { repairShot } from '@/core/document';
import { messageOf } from '@/core/errors';
import type { ShotRow, VersionRow } from '@/store';
import { keepRepaired, versionsOf } from '@/store';
import { saveBlob } from '../theme/save-blob';
import { toastError } from '../theme/toast';

/** A shot that cannot be opened as it is: what is wrong with it, and the ways out. */
export function RepairView({ row, problem, onRepaired }: { row: ShotRow; problem: string; onRepaired(): void }) {
  const [versions, setVersions] = useState<VersionRow[]>([]);
  useEffect(() => {
    void versionsOf(row.id).then(setVersions, toastError);
  }, [row.id]);
  const repaired = useMemo(() => {
    try {
      return repairShot(row.shot);
    } catch (e) {
      return messageOf(e);
    }
  }, [row.shot]);
  const keep = (shot: Shot): void => void keepRepaired(row, shot).then(onRepaired, toastError);
  return (
    <main className="repair">
      <h1>“{row.name}” cannot be opened as it is</h1>
      <p role="alert">{problem}</p>
      {typeof repaired === 'string' ? (
        <p>{repaired}</p>
      ) : (
        <section>
          <h2>Take out what is wrong</h2>
          <ul className="plain-list">
            {repaired.done.map((d) => (
              <li key={d}>{d}</li>
            ))}
          </ul>
          <p className="dust">The shot as it is now stays as a version.</p>
          <Button variant="contained" color="secondary" onClick={() => keep(repaired.shot)}>
            Repair and open
          </Button>
        </section>
      )}
      {versions.length > 0 && (
        <section>
          <h2>Go back to a version</h2>
          {versions.map((v) => (
            <div key={v.id} className="version">
              <span className="grow">
                {v.name} <span className="dust">{new Date(v.made).toLocaleString('en-GB')}</span>
              </span>
              <Button onClick={() => keep({ ...v.shot, id: row.id })}>Open this</Button>
            </div>
          ))}
        </section>
      )}
      <section>
        <Button
          variant="outlined"
          onClick={() => saveBlob(new Blob([JSON.stringify(row.shot, null, 1)], { type: 'application/json' }), `${row.name}.json`)}
        >
          Take it out as JSON
        </Button>{' '}
        <Button component={Link} href="/">
          To the Library
        </Button>
      </section>
    </main>
  );
}
