'use client';
import Badge from '@mui/material/Badge';
import IconButton from '@mui/material/IconButton';
import Popover from '@mui/material/Popover';
import Tooltip from '@mui/material/Tooltip';
import { useState } from 'react';
import { ForumOutlinedIcon } from '@/ui/theme/icons';
import { useToasts } from '../theme/toast';

const clock = (at: number): string => new Date(at).toLocaleTimeString('en-GB');

/** Everything that was told since the page was opened, the newest first. */
export function Messages() {
  const { said, unread } = useToasts();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Tooltip title="Messages">
        <IconButton
          aria-label="Messages"
          aria-haspopup="dialog"
          onClick={(e) => {
            setAnchor(e.currentTarget);
            // What stands is in the list.
            useToasts.setState({ unread: 0, list: [] });
          }}
        >
          <Badge variant="dot" invisible={unread === 0} color="warning">
            <ForumOutlinedIcon fontSize="small" />
          </Badge>
        </IconButton>
      </Tooltip>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
      >
        <div className="messages" role="dialog" aria-label="Messages">
          {said.length === 0 && <p className="dust">No messages yet.</p>}
          {[...said].reverse().map((t) => (
            <p key={t.id} className={t.kind}>
              <span className="mono dust">{clock(t.at)}</span> {t.text}
            </p>
          ))}
        </div>
      </Popover>
    </>
  );
}
