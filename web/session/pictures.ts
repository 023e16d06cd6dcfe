/**
 * Has something be shown with the next picture of the screen, however often it is asked for; at once where nothing is painted.
 * @param show shows what has come of it
 */
export function usePictures(show: () => void) {
  let frame = 0;
  const paints = typeof requestAnimationFrame === 'function';
  return {
    /** With the next picture. */
    soon(): void {
      if (!paints) return show();
      frame ||= requestAnimationFrame(() => {
        frame = 0;
        show();
      });
    },
    now(): void {
      if (frame) cancelAnimationFrame(frame);
      frame = 0;
      show();
    },
  };
}
