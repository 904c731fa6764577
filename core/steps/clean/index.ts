import { cleanPlate } from './clean-plate';
import { denoise } from './denoise';
import { fill } from './fill';
import { grain } from './grain';
import { patch } from './patch';

export const cleanSteps = [cleanPlate, fill, patch];
export const grainSteps = [denoise, grain];
