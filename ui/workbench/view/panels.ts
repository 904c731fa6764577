/** Which panels are open. */
export interface Panels {
  dock: 'sources' | 'readings';
  dialog:
    | 'search'
    | 'addStep'
    | 'shortcuts'
    | 'export'
    | 'format'
    | 'versions'
    | 'settings'
    | 'recipes'
    | 'carry'
    | 'remove'
    | 'keyScreen'
    | 'deleteLane'
    | 'unsaved'
    | null;
  tab: 'lanes' | 'curves' | 'scopes' | 'meter' | 'checks' | 'readings' | 'notes';
  /** A file with a camera that is being brought in. */
  incoming: File | null;
}

export const panels: Panels = {
  dock: 'sources',
  dialog: null,
  tab: 'lanes',
  incoming: null,
};
