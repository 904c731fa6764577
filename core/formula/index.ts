export { FUNCTIONS, compileFormula } from './formula';
