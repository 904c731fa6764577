'use client';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';

/** What a menu offers: its words, and what is done. */
export type MenuEntry = readonly [label: string, run: () => void];

/** The menu of something in a list; closes when something is chosen. */
export function RowMenu({ anchor, onClose, entries }: { anchor: HTMLElement | null; onClose(): void; entries: readonly MenuEntry[] }) {
  return (
    // What is clicked here must not count as a click on the row around it.
    <Menu anchorEl={anchor} open={anchor !== null} onClose={onClose} onClick={(e) => e.stopPropagation()}>
      {entries.map(([label, run]) => (
        <MenuItem
          key={label}
          onClick={() => {
            onClose();
            // After the menu has given the focus back: what is run may take it, to rename for instance.
            setTimeout(run);
          }}
        >
          {label}
        </MenuItem>
      ))}
    </Menu>
  );
}
