import type { LearnExports } from './learn-exports';

/** Resampling along one axis, with a list of first samples and of weights; see kernels/assembly/resample.ts. */
type ResampleAxis = (
  x: number,
  out: number,
  w: number,
  h: number,
  xStride: number,
  outStride: number,
  starts: number,
  weights: number,
  taps: number,
) => void;

/** What kernels.wasm exports. Pointers are byte offsets into its memory; see kernels/assembly for each function. */
export interface KernelExports extends LearnExports {
  rasterNearest(
    triangles: number,
    list: number,
    count: number,
    x0: number,
    y0: number,
    w: number,
    h: number,
    near: number,
    ids: number,
  ): void;
  rasterPieces(
    triangles: number,
    list: number,
    count: number,
    x0: number,
    y0: number,
    w: number,
    h: number,
    near: number,
    out: number,
    most: number,
  ): number;
  gatherPieces(ids: number, near: number, n: number, surfaces: number, normals: number, out: number): number;
  rasterDepth(triangles: number, count: number, w: number, h: number, near: number): void;
  planePositions(m: number, x0: number, y0: number, w: number, h: number, xs: number, ys: number): void;
  layUnder(out: number, alpha: number, under: number, n: number): void;
  layOver(
    r: number,
    g: number,
    b: number,
    a: number,
    stride: number,
    toR: number,
    toG: number,
    toB: number,
    toA: number,
    toStride: number,
    w: number,
    h: number,
  ): void;
  flowEnlarge(from: number, fw: number, fh: number, out: number, w: number, h: number, factor: number, row: number): void;
  flowSlopes(x: number, stride: number, w: number, h: number, gx: number, gy: number): void;
  flowPatches(
    i0: number,
    gx: number,
    gy: number,
    i1: number,
    stride: number,
    w: number,
    h: number,
    u: number,
    v: number,
    pu: number,
    pv: number,
    pc: number,
    nx: number,
    ny: number,
    apart: number,
    steps: number,
  ): void;
  flowSpread(
    i0: number,
    i1: number,
    stride: number,
    w: number,
    h: number,
    pu: number,
    pv: number,
    nx: number,
    ny: number,
    apart: number,
    su: number,
    sv: number,
    sw: number,
  ): void;
  flowWarp(
    i1: number,
    stride: number,
    fullW: number,
    fullH: number,
    x0: number,
    y0: number,
    w: number,
    h: number,
    u: number,
    v: number,
    out: number,
    inside: number,
  ): void;
  flowData(
    d: number,
    size: number,
    e: number,
    u: number,
    v: number,
    U: number,
    V: number,
    stride: number,
    w: number,
    h: number,
    delta: number,
    gamma: number,
  ): void;
  flowTies(U: number, V: number, stride: number, w: number, h: number, sx: number, sy: number, alpha: number): void;
  flowRelax(
    e: number,
    size: number,
    sx: number,
    sy: number,
    U: number,
    V: number,
    stride: number,
    w: number,
    h: number,
    omega: number,
    sweeps: number,
  ): void;
  flowApart(u: number, v: number, bu: number, bv: number, w: number, h: number, out: number): void;
  ratioMix(x: number, before: number, after: number, out: number, n: number, floor: number): void;
  sliceWeights(level: number, member: number, known: number, n: number, slice: number): void;
  prefixRows(packed: number, out: number, w: number, h: number, left: number, right: number): void;
  spanBlur(
    prefix: number,
    pw: number,
    ph: number,
    out: number,
    stride: number,
    w: number,
    h: number,
    x0: number,
    y0: number,
    spans: number,
    count: number,
  ): void;
  overPacked(front: number, fw: number, fh: number, out: number, ow: number, oh: number, x0: number, y0: number): void;
  unpackFour(packed: number, a: number, b: number, c: number, d: number, n: number): void;
  motionBlur(
    packed: number,
    vx: number,
    vy: number,
    depth: number,
    w: number,
    h: number,
    tiles: number,
    tilesWide: number,
    side: number,
    out: number,
    x0: number,
    y0: number,
    ow: number,
    oh: number,
    from: number,
    to: number,
    most: number,
    near: number,
  ): void;
  lampLight(p: number, surface: number, w: number, h: number, y0: number, y1: number, r: number, g: number, b: number): void;
  weightedSum(base: number, out: number, n: number, planes: number, gains: number, count: number): void;
  idCoverage(pairs: number, ranks: number, out: number, n: number, list: number, count: number): void;
  spreadNodes(grid: number, columns: number, from: number, out: number, w: number, low: number, weights: number, scratch: number): void;
  copyRows(x: number, stride: number, out: number, w: number, h: number, left: number, right: number): void;
  copyPart(x: number, stride: number, out: number, outStride: number, w: number, h: number): void;
  affine(x: number, out: number, n: number, gain: number, offset: number): void;
  radialPlane(table: number, scale: number, x: number, y: number, w: number, h: number, out: number): void;
  multiply(a: number, b: number, out: number, n: number): void;
  addScaled(a: number, b: number, out: number, n: number, gain: number): void;
  unpremultiply(c: number, a: number, out: number, n: number): void;
  repremultiply(c: number, a: number, out: number, n: number): void;
  repremultiplyLight(c: number, a: number, before: number, out: number, n: number): void;
  affineClamped(x: number, out: number, n: number, gain: number, offset: number, low: number, high: number): void;
  carryAlpha(c: number, before: number, after: number, out: number, n: number): void;
  clampPlane(x: number, out: number, n: number, low: number, high: number): void;
  mixPlane(before: number, after: number, out: number, n: number, mix: number): void;
  mixMasked(before: number, after: number, mask: number, out: number, n: number, mix: number): void;
  maxPlane(a: number, b: number, out: number, n: number): void;
  minPlane(a: number, b: number, out: number, n: number): void;
  powerPlane(x: number, out: number, n: number, exponent: number, pivot: number): void;
  saturate(r: number, g: number, b: number, n: number, saturation: number): void;
  porterDuff(
    front: number,
    back: number,
    frontAlpha: number,
    backAlpha: number,
    out: number,
    n: number,
    fa0: number,
    fa1: number,
    fb0: number,
    fb1: number,
  ): void;
  blendPlain(op: number, front: number, back: number, out: number, n: number): void;
  blendAlpha(op: number, front: number, back: number, frontAlpha: number, backAlpha: number, out: number, n: number): void;
  colourDifference(
    p: number,
    q: number,
    r: number,
    sp: number,
    sq: number,
    sr: number,
    out: number,
    raw: number,
    n: number,
    balance: number,
    low: number,
    high: number,
    toe: number,
    shoulder: number,
    gamma: number,
    least: number,
    own: number,
  ): void;
  fillScreen(
    p: number,
    q: number,
    r: number,
    op: number,
    oq: number,
    or: number,
    n: number,
    cp: number,
    cq: number,
    cr: number,
    balance: number,
    share: number,
  ): void;
  subtractScreen(c: number, s: number, raw: number, a: number, out: number, n: number, floor: number): void;
  spillAmount(p: number, q: number, r: number, out: number, n: number, limit: number, weight: number, amount: number): void;
  giveBackground(r: number, g: number, b: number, br: number, bg: number, bb: number, spill: number, n: number, lost: number): void;
  protectHue(r: number, g: number, b: number, spill: number, n: number, keep: number, range: number): void;
  matrix3(
    a: number,
    b: number,
    c: number,
    oa: number,
    ob: number,
    oc: number,
    n: number,
    m00: number,
    m01: number,
    m02: number,
    m10: number,
    m11: number,
    m12: number,
    m20: number,
    m21: number,
    m22: number,
  ): void;
  convolveRows(x: number, out: number, w: number, h: number, xStride: number, outStride: number, k: number, taps: number): void;
  convolveColumns(x: number, out: number, w: number, h: number, xStride: number, outStride: number, k: number, taps: number): void;
  reduceRows(x: number, out: number, w: number, h: number, xStride: number, outStride: number): void;
  reduceColumns(x: number, out: number, w: number, h: number, xStride: number, outStride: number): void;
  expandRows(x: number, out: number, w: number, h: number, xStride: number, outStride: number, phase: number): void;
  expandColumns(x: number, out: number, w: number, h: number, xStride: number, outStride: number, phase: number): void;
  resampleRows: ResampleAxis;
  resampleColumns: ResampleAxis;
  resampleWide(
    planes: number,
    outs: number,
    count: number,
    sx: number,
    sy: number,
    sw: number,
    sh: number,
    ox: number,
    oy: number,
    w: number,
    h: number,
    m0: number,
    m1: number,
    m2: number,
    m3: number,
    m4: number,
    m5: number,
    table: number,
    support: number,
    scaleX: number,
    scaleY: number,
    weights: number,
  ): void;
  doubleMaximum(x: number, out: number, n: number, shift: number): void;
  accumulateChord(m: number, out: number, w: number, h: number, stride: number, outStride: number, shift: number): void;
  columnCrossings(x: number, out: number, w: number, h: number, level: number): void;
  rowEnvelope(d: number, w: number, h: number, scratch: number): void;
  runsBetween(x: number, out: number, w: number, h: number, low: number, high: number): number;
  runsAbove(x: number, out: number, w: number, h: number, gain: number, level: number): number;
  boxColumns(x: number, out: number, stride: number, h: number, r: number): void;
  colourFit(means: number, apart: number, n: number, epsilon: number): void;
  affineOfColour(a: number, b: number, c: number, base: number, red: number, green: number, blue: number, out: number, n: number): void;
  transpose(x: number, out: number, w: number, h: number): void;
  offsetLevel(matte: number, d: number, out: number, n: number, level: number, radius: number): void;
  halfToFloat(x: number, out: number, n: number): void;
  floatToHalf(x: number, out: number, n: number): void;
  lookup8(x: number, out: number, n: number, step: number, table: number): void;
  lookup16(x: number, out: number, n: number, step: number, table: number): void;
  interleave4(r: number, g: number, b: number, a: number, out: number, n: number): void;
  statistics(x: number, n: number, out: number): void;
  /** 0 or 1. */
  allEqual(x: number, n: number, value: number): number;
  allEqualIn(x: number, stride: number, w: number, h: number, value: number): number;
  countNonFinite(x: number, n: number): number;
  unpredictBytes(x: number, out: number, n: number): void;
  predictBytes(x: number, out: number, n: number): void;
  huffmanScratch(): number;
  huffmanDecode(src: number, size: number, out: number, count: number, scratch: number): number;
  huffmanEncode(src: number, count: number, codes: number, runSymbol: number, out: number): number;
  waveletDecode(x: number, nx: number, ox: number, ny: number, oy: number, most: number): void;
  waveletEncode(x: number, nx: number, ox: number, ny: number, oy: number, most: number): void;
  lookupInPlace16(x: number, n: number, table: number): void;
  inflateScratch(): number;
  inflate(src: number, n: number, out: number, room: number, scratch: number): number;
  /** 0 where a row's filter is none of the five, 1 else. */
  unfilterPng(x: number, out: number, rows: number, stride: number, pixel: number): number;
  lutCube(r: number, g: number, b: number, n: number, table: number, size: number, domain: number): void;
  lutCurve(x: number, n: number, table: number, size: number, scale: number, shift: number): void;
  boxReduce(x: number, out: number, w: number, h: number, xStride: number, factor: number): void;
  sumFours(x: number, out: number, w: number, h: number): void;
  divideByOver1(x: number, weight: number, n: number): void;
  addOpen(fine: number, weight: number, w: number, h: number, coarse: number, cw: number, ch: number): void;
  doubled(x: number, out: number, w: number, h: number, xStride: number): void;
  quarticRow(out: number, w: number, a: number, b: number, c: number, d: number, e: number): void;
  anyBetween(x: number, w: number, h: number, stride: number, low: number, high: number): number;
  solidOnly(c: number, a: number, stride: number, out: number, w: number, h: number, solid: number): void;
  takeCarried(
    c: number,
    a: number,
    stride: number,
    carried: number,
    known: number,
    carriedStride: number,
    out: number,
    outStride: number,
    w: number,
    h: number,
    solid: number,
    keep: number,
  ): void;
  correlate(t: number, tw: number, th: number, p: number, stride: number, out: number, nx: number, ny: number): void;
  gradientNoise(
    out: number,
    w: number,
    h: number,
    ox: number,
    oy: number,
    size: number,
    z: number,
    octaves: number,
    all: number,
    roughness: number,
    seed: number,
  ): void;
  calm(x: number, out: number, w: number, h: number, scratch: number): void;
  followShift(
    from: number,
    to: number,
    w: number,
    h: number,
    n: number,
    px: number,
    py: number,
    u: number,
    v: number,
    still: number,
    steps: number,
    scratch: number,
    result: number,
  ): number;
  lookThrough(p: number, w: number, h: number, map: number, xs: number, ys: number, n: number, out: number, seen: number): void;
  weightedProducts(columns: number, m: number, n: number, weights: number, y: number, matrix: number, right: number, scratch: number): void;
  coverEdges(edges: number, n: number, out: number, w: number, h: number, top: number, bottom: number): void;
  coverSum(differences: number, out: number, w: number, h: number): void;
  coverNear(edges: number, n: number, out: number, w: number, top: number, bottom: number, sign: number, core: number): void;
  coverFeather(coverage: number, inward: number, outward: number, n: number, falloff: number): void;
  coverSumLay(differences: number, operation: number, out: number, w: number, h: number, stride: number, opacity: number): void;
  coverLay(operation: number, coverage: number, out: number, w: number, h: number, stride: number, opacity: number): void;
  whiteNoise(out: number, w: number, h: number, ox: number, oy: number, seed: number): void;
  correlateSquare(x: number, stride: number, out: number, w: number, h: number, weights: number, side: number): void;
  addGrain(x: number, alpha: number, noise: number, n: number, a: number, b: number, c: number, gain: number): void;
  addAlike(
    a0: number,
    a1: number,
    a2: number,
    b0: number,
    b1: number,
    b2: number,
    stride: number,
    w: number,
    h: number,
    r: number,
    floor: number,
    scale: number,
    s0: number,
    s1: number,
    s2: number,
    weight: number,
    sumStride: number,
    square: number,
    rows: number,
  ): void;
  medianRows(x: number, stride: number, out: number, w: number, h: number, r: number, window: number): void;
  halvePacked(packed: number, w: number, h: number, out: number): void;
  packFour(a: number, b: number, c: number, d: number, out: number, n: number): void;
  sampleFour(
    packed: number,
    sx: number,
    sy: number,
    sw: number,
    sh: number,
    outs: number,
    stride: number,
    ox: number,
    oy: number,
    w: number,
    h: number,
    m: number,
    xs: number,
    ys: number,
    ms: number,
    taps: number,
    weights: number,
    scratch: number,
    most: number,
    lays: number,
  ): void;
}
