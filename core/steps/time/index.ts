import { echoFrames } from './echo-frames';
import { hold } from './hold';
import { motionVectors } from './motion-vectors';
import { offset } from './offset';
import { retime } from './retime';
import { reverse } from './reverse';

export const timeSteps = [hold, offset, reverse, retime, echoFrames, motionVectors];
