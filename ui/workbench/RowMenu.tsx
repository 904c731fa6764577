'use client';
import IconButton from '@mui/material/IconButton';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { MoreVertIcon } from '@/ui/theme/icons';

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

interface MenuButtonProps {
  label: string;
  entries: readonly MenuEntry[];
  /** Of the dots, px. */
  size?: number;
  className?: string;
}

/** The button of such a menu. A press on it drags nothing, and is no click on what it stands in. */
export function MenuButton({ label, entries, size = 14, className = '' }: MenuButtonProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <IconButton
        className={className}
        aria-label={label}
        onPointerDown={(e) => e.stopPropagation()}
        onClick={(e) => {
          e.stopPropagation();
          setAnchor(e.currentTarget);
        }}
      >
        <MoreVertIcon sx={{ fontSize: size }} />
      </IconButton>
      <RowMenu anchor={anchor} onClose={() => setAnchor(null)} entries={entries} />
    </>
  );
}
