import type { DragEvent } from 'react';

const NET = 'text/mavrek-net';

/** Handlers of something that stands for a pad: the net on it can be dragged away, another one dropped here. */
export const dragNet = (
  pad: string,
  netId: string | undefined,
  onDropNet: (netId: string, pad: string) => void,
) => ({
  draggable: netId !== undefined,
  onDragStart(event: DragEvent) {
    if (netId !== undefined) event.dataTransfer.setData(NET, netId);
    event.dataTransfer.effectAllowed = 'move';
  },
  onDragOver(event: DragEvent) {
    if (event.dataTransfer.types.includes(NET)) event.preventDefault();
  },
  onDrop(event: DragEvent) {
    event.preventDefault();
    const net = event.dataTransfer.getData(NET);
    if (net) onDropNet(net, pad);
  },
});
