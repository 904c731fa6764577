export { openBundleFile } from './bundle';
export type { OpenShot } from './host';
export { findFrames, nodeHost, nodeKernels, openShotFile, readBytes } from './host';
export { isPartner, serveTraining, trainInNode } from './training';
export { FramePool, serveFrames } from './workers';
