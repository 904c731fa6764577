import type { Shot, Tap } from '@/core/document';
import { RGBA } from '@/core/picture';
import type { Pictures, ReadingChannel } from '@/core/readings';
import { grayFrame } from '@/core/readings';
import type { PictureHost } from './host';

/** What a reading is measured in, rendered by a host at full size. */
export const picturesOf = (host: Pick<PictureHost, 'render'>, shot: Shot, tap: Tap, channel: ReadingChannel = 'luma'): Pictures => ({
  async frame(frame) {
    const { pixels, region, format } = await host.render(shot, { tap, frame, scale: 1, channels: RGBA });
    return grayFrame(pixels, region, format, channel);
  },
});
