/** Colours of the interface; global.css repeats them as custom properties for what is not a component. */
export const tokens = {
  pit: '#161616',
  floor: '#1d1d1d',
  wall: '#242424',
  shelf: '#2d2d2d',
  line: '#383838',
  bone: '#e9e3d8',
  dust: '#a8a298',
  ash: '#8a847b',
  clay: '#d0693b',
  clayText: '#f0a27c',
  glaze: '#79b0a8',
  ochre: '#d8a848',
  red: '#ec6a5e',
  ink: '#17110d',
} as const;
