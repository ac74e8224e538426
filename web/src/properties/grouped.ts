import type { ChannelView } from '../engine/engine';

/** Channels that have a row together. */
export interface Group {
  /** What their paths have in common. */
  id: string;
  label: string;
  channels: ChannelView[];
  isColour: boolean;
}

const stemOf = (path: string) => /^(.*)\.[xyzwrgb]$/.exec(path)?.[1];

/** Channels in order; those of a vector, a quaternion or a colour, which stand one after the other, as a group. */
export function grouped(channels: ChannelView[]): (ChannelView | Group)[] {
  const out: (ChannelView | Group)[] = [];
  for (let i = 0; i < channels.length; i++) {
    const stem = stemOf(channels[i].path);
    let end = i + 1;
    while (stem !== undefined && end < channels.length && stemOf(channels[end].path) === stem) end++;
    if (end - i < 2) {
      out.push(channels[i]);
      continue;
    }
    out.push({
      id: stem!,
      label: channels[i].label.replace(/ [A-Z]$/, ''),
      channels: channels.slice(i, end),
      isColour: channels[i].path.endsWith('.r'),
    });
    i = end - 1;
  }
  return out;
}
