import type { PlanNode, StepNode } from './plan';

/**
 * A part of a plan whose result is held whole in memory: a source, a step that reads a neighbourhood, or a run of steps
 * that are worked out together, tile by tile, with nothing but the last one's result being kept.
 */
export interface Stage {
  readonly root: PlanNode;
  /** The steps of the run, inputs first, the root last; none for a source. */
  readonly members: readonly StepNode[];
  /** Results of other stages that are read. */
  readonly inputs: ReadonlySet<PlanNode>;
}

/** Every node that a step reads, each once. */
export function inputsOf(node: PlanNode): Set<PlanNode> {
  if (node.kind !== 'step') return new Set();
  const all = new Set(node.inputs.values());
  if (node.mask) all.add(node.mask.node);
  return all;
}

/**
 * Cuts nodes (inputs before users, the root last) into stages. A pointwise step joins the stage of its users where they all
 * belong to the same tiled one; anything else starts a stage of its own. With `fuse` false every node does.
 */
export function makeStages(nodes: readonly PlanNode[], fuse = true): Stage[] {
  const users = new Map<PlanNode, StepNode[]>();
  for (const node of nodes) {
    if (node.kind !== 'step') continue;
    for (const input of inputsOf(node)) users.set(input, [...(users.get(input) ?? []), node]);
  }
  const rootOf = new Map<PlanNode, PlanNode>();
  for (let i = nodes.length - 1; i >= 0; i--) {
    const node = nodes[i]!;
    const roots = new Set((users.get(node) ?? []).map((u) => (u.pointwise ? rootOf.get(u) : undefined)));
    const [only] = roots;
    rootOf.set(node, fuse && node.kind === 'step' && node.pointwise && roots.size === 1 && only ? only : node);
  }
  const members = new Map<PlanNode, StepNode[]>();
  for (const node of nodes) {
    const root = rootOf.get(node)!;
    if (!members.has(root)) members.set(root, []);
    if (node.kind === 'step') members.get(root)!.push(node);
  }
  return nodes
    .filter((n) => rootOf.get(n) === n)
    .map((root) => {
      const own = members.get(root)!;
      const inputs = new Set(own.flatMap((m) => [...inputsOf(m)]).filter((n) => rootOf.get(n) !== root));
      return { root, members: own, inputs };
    });
}
