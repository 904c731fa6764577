/** One of a step's list of parts, such as a pass or a lamp, as a document keeps it. Its parameters stand beside those of the step, as `id.name`. */
export interface Part {
  /** Letters, digits, - and _. */
  readonly id: string;
  /** What it is called; of a pass, its layer. */
  readonly name: string;
}
