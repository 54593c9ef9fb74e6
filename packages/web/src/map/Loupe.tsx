import { type Ref, useImperativeHandle, useRef } from 'react';
import { Box } from '@chakra-ui/react';

export interface LoupeHandle {
  /** Shows what lies around a point of the map's box; null takes the loupe away. */
  show(pixel: readonly [number, number] | null): void;
}

/** Pixels on the screen across the loupe, and times by which it enlarges. */
const [SIDE, TIMES] = [132, 4];

/** An enlarged piece of the map around the pointer, for setting a point to the pixel. It follows the pointer without the page. */
export function Loupe({ holder, ref }: { holder: HTMLElement | null; ref: Ref<LoupeHandle> }) {
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  useImperativeHandle(
    ref,
    () => ({
      show(pixel) {
        const frame = box.current,
          context = canvas.current?.getContext('2d');
        if (!frame || !context || !holder) return;
        frame.style.display = pixel ? 'block' : 'none';
        if (!pixel) return;
        const [x, y] = pixel;
        const { clientWidth: w, clientHeight: h } = holder;
        // beside the pointer, where there is room
        frame.style.left = `${x + 24 + SIDE < w ? x + 24 : x - 24 - SIDE}px`;
        frame.style.top = `${y + 24 + SIDE < h ? y + 24 : y - 24 - SIDE}px`;
        context.clearRect(0, 0, SIDE, SIDE);
        context.imageSmoothingEnabled = false;
        const seen = SIDE / TIMES;
        for (const layer of holder.querySelectorAll('canvas')) {
          const bounds = layer.getBoundingClientRect(),
            own = holder.getBoundingClientRect();
          if (bounds.width === 0) continue;
          const ratio = layer.width / bounds.width;
          const [cx, cy] = [(x - (bounds.left - own.left)) * ratio, (y - (bounds.top - own.top)) * ratio];
          const reach = (seen * ratio) / 2;
          context.globalAlpha = Number(layer.parentElement?.style.opacity || 1);
          context.drawImage(layer, cx - reach, cy - reach, 2 * reach, 2 * reach, 0, 0, SIDE, SIDE);
        }
      },
    }),
    [holder],
  );
  return (
    <Box
      ref={box}
      display="none"
      position="absolute"
      w={`${SIDE}px`}
      h={`${SIDE}px`}
      borderWidth="1px"
      borderColor="ink"
      borderRadius="full"
      overflow="hidden"
      bg="map"
      pointerEvents="none"
      aria-hidden="true"
    >
      <canvas ref={canvas} width={SIDE} height={SIDE} style={{ display: 'block' }} />
      <Box position="absolute" inset="0" color="oxide">
        <svg width={SIDE} height={SIDE} viewBox={`0 0 ${SIDE} ${SIDE}`}>
          <path
            d={`M${SIDE / 2} 0V${SIDE / 2 - 7}M${SIDE / 2} ${SIDE / 2 + 7}V${SIDE}M0 ${SIDE / 2}H${SIDE / 2 - 7}M${SIDE / 2 + 7} ${SIDE / 2}H${SIDE}`}
            stroke="currentColor"
            strokeWidth="1"
          />
        </svg>
      </Box>
    </Box>
  );
}
