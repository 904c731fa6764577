export type Selection =
  | { kind: 'step'; id: string }
  | { kind: 'zone'; id: string }
  | { kind: 'lane'; id: string }
  | { kind: 'source'; id: string }
  | { kind: 'reading'; id: string }
  | null;

/** What is chosen. */
export interface Choosing {
  selection: Selection;
  /** The lane or step whose name is being written. */
  renaming: string | null;
  /** Steps of a lane that are chosen together, from the one index to the other. */
  run: { lane: string; from: number; to: number } | null;
  /** The chosen stroke of the selected step: its place in the list. */
  stroke: number | null;
  /** The crossing of a chart that was clicked last. */
  crossing: { frame: number; column: number; row: number } | null;
  /** The thing of the selected scene that is chosen, by its id. */
  thing: string | null;
  /** Tracks of the selected camera that are chosen. */
  tracks: readonly string[];
}

export const choosing: Choosing = {
  selection: null,
  renaming: null,
  run: null,
  stroke: null,
  crossing: null,
  thing: null,
  tracks: [],
};
