export type { Recipe } from './clipboard';
export { LANES, RECIPE, addRecipe, clipLane, parseCopied, parseRecipe, pasteLanes, recipeOf } from './clipboard';
export * as commands from './commands';
export type { Change } from './commands';
export { alignSource, changeNote, changeSource, findZone, setKeys, setParam, setParams } from './commands';
export * as lensCommands from './lens';
export { countCrossings, countCrossingsIn, moveCrossing, workStraight } from './lens';
export * as lessons from './lessons';
export { addExample, addLesson, applyLesson, finishMatte, lessonOfStep, setLearnt, setSureness } from './lessons';
export { freeName, newId, newShot } from './make';
export { notesCsv, notesEdl, notesText } from './notes';
export { addLamp, addParts, commandsFor, maskByPasses, removePart, setPass, stepForPasses } from './passes';
export * as readingCommands from './readings';
export {
  addPlane,
  addPoint,
  addReadings,
  boostLane,
  canFreeze,
  changePlane,
  changePoint,
  changeReading,
  followReading,
  freezeStep,
  interpolateFrame,
  isFrozen,
  pinPicture,
  pinPlane,
  pinPoint,
  removeReading,
  setFrames,
  steadyPlate,
  unfreezeStep,
  unwrapPlane,
  usersOfReading,
} from './readings';
export { addShapes, changeSome, inputOf, keyFramesOf, moveShape, shapesIn, shapesLane, shapesParam } from './shapes';
export * as space from './space';
export { addReadCamera, cameraOf, removeTracks, setCamera, setPlacing } from './space';
export type { Place } from './stack';
export type { ThingKind } from './things';
export { THING_KINDS, addThing, putThingsIn, renameThing } from './things';
export { addLane, addSource, addStep } from './commands';
