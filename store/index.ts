export type { BroughtIn } from './bring-in';
export { bringIn } from './bring-in';
export { exportBundle, importBundle } from './bundles';
export type { Carried, LookPlace } from './carry';
export { carryLook } from './carry';
export type { Recipe } from './clipboard';
export { LANES, RECIPE, addRecipe, clipLane, parseCopied, parseRecipe, pasteLanes, recipeOf } from './clipboard';
export * as commands from './commands';
export type { Change } from './commands';
export { alignSource, changeNote, changeSource, findZone, setKeys, setParam, setParams } from './commands';
export type { FilmRow, RecipeRow, ShotRow, VersionRow } from './db';
export { db } from './db';
export type { DemoShot } from './demo';
export { DemoFilm, demoState } from './demo';
export type { Opened } from './editing';
export { Unreadable, openForEditing } from './editing';
export { deleteFilm, moveInFilm, newFilm, placeInFilm, renameFilm } from './films';
export { hideMark } from './hide-mark';
export { keyScreen, plateBefore } from './key-screen';
export * as lensCommands from './lens';
export { countCrossings, countCrossingsIn, moveCrossing, workStraight } from './lens';
export * as lessons from './lessons';
export { addExample, addLesson, applyLesson, finishMatte, lessonOfStep, setLearnt, setSureness } from './lessons';
export { freeName, newId, newShot } from './make';
export type { GivenFile, Storage } from './media';
export { accessOfSource, freeUnused, keepMedia, sizeText, storage } from './media';
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
export type { RemoveBy, RemoveOptions, Removed } from './remove-this';
export { removeThis } from './remove-this';
export { matchNow, setMatch } from './seating';
export type { Settings, Surround } from './settings';
export { SURROUNDS, changeSettings, defaultSettings, loadSettings, saveSettings } from './settings';
export { addShapes, changeSome, inputOf, keyFramesOf, moveShape, shapesIn, shapesLane, shapesParam } from './shapes';
export type { ShotSession, ShotState } from './shot-store';
export { deleteRow, duplicateRow, keepRepaired, renameRow } from './shots';
export * as space from './space';
export { addReadCamera, cameraOf, removeTracks, setCamera, setPlacing } from './space';
export type { Place } from './stack';
export type { ThingKind } from './things';
export { THING_KINDS, addThing, putThingsIn, renameThing } from './things';
export { restore, saveByItself, saveVersion, versionsOf } from './versions';
