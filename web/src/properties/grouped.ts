import type { ChannelView } from '../engine/engine';

export type Row = { one: ChannelView } | { colour: ChannelView[]; label: string };

/** Channels in order, three of a colour with a swatch before them. */
export function grouped(channels: ChannelView[]): Row[] {
  const out: Row[] = [];
  for (let i = 0; i < channels.length; i++) {
    if (channels[i].path.endsWith('.r') && channels[i + 2]?.path.endsWith('.b'))
      out.push({ colour: channels.slice(i, i + 3), label: channels[i].label.replace(/ R$/, '') });
    out.push({ one: channels[i] });
  }
  return out;
}
