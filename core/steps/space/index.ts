import type { StepDefinition } from '../../step';
import { scene } from './scene';

export const spaceSteps: readonly StepDefinition[] = [scene];
