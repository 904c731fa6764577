import { paint } from './paint';
import { roto } from './roto';

export const shapeSteps = [paint, roto];
