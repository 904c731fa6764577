export type { CdlKind } from './cdl';
export { cdlOfGrade, formatCdl, formatCdls, gradeOfCdl, parseCdl } from './cdl';
export type { Cube, PreparedCube } from './cube';
export { formatCube, giveCube, parseCube, prepareCube } from './cube';
export { LINEAR_SPACES, SPACES, SPACE_NAMES, matricesOf, spaceOfChromaticities } from './spaces';
export { LUMA, REC709, SRGB } from './transfer';
