import { paint } from './paint';

export const shapeSteps = [paint];
