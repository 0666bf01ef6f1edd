// When things are done: once a frame, or after a rest on the station they began at.

// A hand that rested at one station is not to post at the next: what it left unsent
// there went along when the station was left.
const station = () => `${document.querySelector('#stations')?.dataset.station} ${location.pathname.split('/')[2]}`;
export function afterRest(act, wait) {
  const begun = station();
  return setTimeout(() => station() === begun && act(), wait);
}

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
