// Draw once a frame, however often it is asked for.

export function oncePerFrame(draw) {
  let pending = 0;
  return () => {
    pending ||= requestAnimationFrame(() => {
      pending = 0;
      draw();
    });
  };
}
