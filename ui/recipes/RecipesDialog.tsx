'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import IconButton from '@mui/material/IconButton';
import OutlinedInput from '@mui/material/OutlinedInput';
import { liveQuery } from 'dexie';
import { useEffect, useRef, useState } from 'react';
import { STEPS } from '@/core/steps';
import type { RecipeRow } from '@/store';
import { freeName, newId, parseRecipe, recipeOf } from '@/core/commands';
import { db } from '@/store';
import { DeleteOutlineIcon } from '@/ui/theme/icons';
import { saveBlob } from '../theme/save-blob';
import { toast, toastError } from '../theme/toast';
import { useBench, useShot } from '../workbench/context';
import { applyRecipe, chosenSteps } from '../workbench/copying';

/** Runs of steps under a name: kept for every shot of this browser, taken out and brought in as JSON. */
export function RecipesDialog({ onClose }: { onClose(): void }) {
  const shot = useShot();
  const { session } = useBench();
  const steps = chosenSteps(shot);
  const [rows, setRows] = useState<RecipeRow[]>([]);
  const [name, setName] = useState('');
  const file = useRef<HTMLInputElement>(null);
  useEffect(() => {
    const watching = liveQuery(() => db.recipes.orderBy('name').toArray()).subscribe({ next: setRows, error: toastError });
    return () => watching.unsubscribe();
  }, []);
  const keep = async (wanted: string, recipe: RecipeRow['recipe']): Promise<void> => {
    const free = freeName(
      wanted,
      rows.map((r) => r.name),
    );
    await db.recipes.put({ id: newId(), name: free, recipe: { ...recipe, name: free } });
    setName('');
    toast('info', `Kept as "${free}".`);
  };
  const bring = async (given: File): Promise<void> => {
    const recipe = parseRecipe(await given.text(), given.name);
    await keep(recipe.name, recipe);
  };
  const apply = (row: RecipeRow): void => {
    try {
      applyRecipe(session, row.recipe);
      onClose();
    } catch (e) {
      toastError(e);
    }
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-label="Recipes">
      <DialogTitle>Recipes</DialogTitle>
      <DialogContent>
        {steps.length > 0 && (
          <div style={{ display: 'flex', gap: 8, marginBottom: 12 }}>
            <OutlinedInput
              fullWidth
              autoFocus
              value={name}
              placeholder={steps.map((s) => s.name).join(', ')}
              inputProps={{ 'aria-label': 'Name of the recipe' }}
              onChange={(e) => setName(e.target.value)}
            />
            <Button
              variant="contained"
              color="secondary"
              onClick={() =>
                void keep(name.trim() || steps[0]!.name, recipeOf(shot, steps, name.trim() || steps[0]!.name)).catch(toastError)
              }
            >
              Keep {steps.length === 1 ? 'this step' : `these ${steps.length} steps`}
            </Button>
          </div>
        )}
        {rows.map((r) => (
          <div key={r.id} className="version" data-testid={`recipe ${r.name}`}>
            <span className="grow">
              <b>{r.name}</b>
              <small className="dust">{r.recipe.steps.map((s) => STEPS.get(s.type)?.title ?? s.type).join(' → ')}</small>
            </span>
            <Button
              onClick={() => saveBlob(new Blob([JSON.stringify(r.recipe, null, 1)], { type: 'application/json' }), `${r.name}.recipe.json`)}
            >
              Take out
            </Button>
            <Button variant="outlined" onClick={() => apply(r)}>
              Use
            </Button>
            <IconButton
              aria-label={`Delete recipe ${r.name}`}
              onClick={() =>
                void db.recipes
                  .delete(r.id)
                  .then(() => toast('info', `"${r.name}" was deleted.`, { label: 'Undo', run: () => void db.recipes.put(r) }), toastError)
              }
            >
              <DeleteOutlineIcon sx={{ fontSize: 16 }} />
            </IconButton>
          </div>
        ))}
        {rows.length === 0 && (
          <div className="empty">Select a step, or Shift-click another one of its lane to choose a run, and keep it here under a name.</div>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={() => file.current?.click()}>Bring in</Button>
        <span style={{ flex: 1 }} />
        <Button variant="outlined" onClick={onClose}>
          Close
        </Button>
        <input
          ref={file}
          type="file"
          accept=".json"
          hidden
          aria-label="Recipe file"
          onChange={(e) => {
            const given = e.target.files?.[0];
            e.target.value = '';
            if (given) void bring(given).catch(toastError);
          }}
        />
      </DialogActions>
    </Dialog>
  );
}
