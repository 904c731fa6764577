/** What lessons teach, on screen. */
export const TEACHES_TITLES = { matte: 'A matte', change: 'A change', carry: 'Colour and light' };
