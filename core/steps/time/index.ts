import { hold } from './hold';
import { offset } from './offset';
import { retime } from './retime';
import { reverse } from './reverse';

export const timeSteps = [hold, offset, reverse, retime];
