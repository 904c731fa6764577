/** Whether the pointer put the focus where it is: arrows and Space are the frames' then. Tab and F6 give the focus to the keyboard. */
let pointer = true;

if (typeof window !== 'undefined') {
  window.addEventListener('pointerdown', () => (pointer = true), true);
  window.addEventListener('keydown', (e) => (pointer = pointer && e.key !== 'Tab' && e.key !== 'F6'), true);
}

export const heldByPointer = (): boolean => pointer;
