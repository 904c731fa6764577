import { choke } from './choke';
import { combineMattes } from './combine-mattes';
import { despill } from './despill';
import { screenKey } from './screen-key';

export const matteSteps = [screenKey, despill, choke, combineMattes];
