'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormHelperText from '@mui/material/FormHelperText';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { useEffect, useState } from 'react';
import type { Settings } from '@/store';
import { SURROUNDS, defaultSettings, loadSettings, saveSettings } from '@/store';
import { messageOf } from '@/core/errors';
import { NumberField } from '../controls/NumberField';
import { toast } from '../theme/toast';
import { useBench } from '../workbench/context';
import { view } from '../workbench/state';

/** What is set for this browser, whatever the shot. */
export function SettingsDialog({ onClose }: { onClose(): void }) {
  const { viewer } = useBench();
  const [values, setValues] = useState<Settings | null>(null);
  useEffect(() => {
    void loadSettings().then(setValues);
  }, []);
  if (!values) return null;
  const set = (change: Partial<Settings>): void => setValues({ ...values, ...change });
  const save = async (): Promise<void> => {
    try {
      await saveSettings(values);
      viewer.setBudget(values.cacheMegabytes * 2 ** 20);
      view.set({ surround: values.surround });
      onClose();
    } catch (e) {
      toast('error', `The settings were not kept: ${messageOf(e)}`);
    }
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs" aria-label="Settings">
      <DialogTitle>Settings</DialogTitle>
      <DialogContent>
        <div className="form">
          <label>Cache (MB)</label>
          <NumberField
            label="Cache (MB)"
            value={values.cacheMegabytes}
            min={64}
            max={65536}
            whole
            step={64}
            onChange={(cacheMegabytes) => set({ cacheMegabytes })}
          />
          <label>Workers</label>
          <div>
            <NumberField label="Workers" value={values.workers} min={0} max={32} whole step={1} onChange={(workers) => set({ workers })} />
            <FormHelperText>
              {values.workers === 0 ? `0 takes one a core: ${viewer.pool.size} now.` : 'Used when the shot is opened again.'}
            </FormHelperText>
          </div>
          <label>Version every (min)</label>
          <div>
            <NumberField
              label="Version every (min)"
              value={values.versionMinutes}
              min={0}
              max={600}
              whole
              step={5}
              onChange={(versionMinutes) => set({ versionMinutes })}
            />
            <FormHelperText>
              Every change is saved within a second. A version by itself is a point to go back to; the last ten are kept. 0 makes none.
            </FormHelperText>
          </div>
          <label>Around the picture</label>
          <Select
            size="small"
            value={values.surround}
            inputProps={{ 'aria-label': 'Around the picture' }}
            onChange={(e) => set({ surround: e.target.value })}
          >
            {SURROUNDS.map((s) => (
              <MenuItem key={s} value={s}>
                {s === 'dark' ? 'Dark grey' : s === 'mid' ? 'Mid grey' : 'Light grey'}
              </MenuItem>
            ))}
          </Select>
        </div>
      </DialogContent>
      <DialogActions>
        <Button onClick={() => setValues({ ...defaultSettings(), keys: values.keys })}>Defaults</Button>
        <span style={{ flex: 1 }} />
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" color="secondary" onClick={() => void save()}>
          Keep
        </Button>
      </DialogActions>
    </Dialog>
  );
}
