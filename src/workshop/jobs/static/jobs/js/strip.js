// On a phone: the piece stays in sight in a strip above the stations, as high as it is pulled.

const NARROW = window.matchMedia('(max-width: 820px)');
const [USUAL, MOST, LEAST] = [40, 70, 12]; // % of the window's height
const strip = document.querySelector('#strip');
const pull = document.querySelector('#pull');

let share = Number(sessionStorage.getItem('strip') ?? USUAL);

function set(wanted) {
  // Pulled nearly shut it is away; the handle stays.
  share = wanted < LEAST ? 0 : Math.min(wanted, MOST);
  // On the root: a field that gets the focus is scrolled clear of strip and stub.
  document.documentElement.style.setProperty('--strip', `${share}dvh`);
  strip.classList.toggle('is-away', share === 0);
  pull.setAttribute('aria-valuenow', String(Math.round(share)));
  pull.setAttribute('aria-valuetext', share ? `${Math.round(share)} % of the screen` : 'hidden');
  sessionStorage.setItem('strip', String(share));
}

let drag = null;
pull.addEventListener('pointerdown', (event) => {
  pull.setPointerCapture(event.pointerId);
  drag = { y: event.clientY, share, moved: false };
});
pull.addEventListener('pointermove', (event) => {
  if (!drag) return;
  const by = event.clientY - drag.y;
  drag.moved ||= Math.abs(by) > 4;
  if (drag.moved) set(drag.share + (100 * by) / window.innerHeight);
});
pull.addEventListener('pointerup', () => {
  // A press without a pull hides it, or brings it back.
  if (drag && !drag.moved) set(share ? 0 : USUAL);
  drag = null;
});
pull.addEventListener('pointercancel', () => { drag = null; });
pull.addEventListener('keydown', (event) => {
  const to = {
    ArrowUp: share - 5, ArrowDown: share + 5, Home: 0, End: MOST,
    Enter: share ? 0 : USUAL, ' ': share ? 0 : USUAL,
  }[event.key];
  if (to === undefined) return;
  event.preventDefault();
  event.stopPropagation();
  set(to);
});
set(share);

// The station that was opened lies right under the strip; a page of findings begins at its top.
let station = document.querySelector('#stations')?.dataset.station;
document.addEventListener('htmx:afterSettle', () => {
  const stations = document.querySelector('#stations');
  if (!stations || stations.dataset.station === station) return;
  station = stations.dataset.station;
  if (NARROW.matches) requestAnimationFrame(showStation);
});
function showStation() {
  if (getComputedStyle(strip).position !== 'sticky') {
    window.scrollTo({ top: 0 });
    return;
  }
  const row = document.querySelector('.station.is-cur');
  if (row) window.scrollBy({ top: row.getBoundingClientRect().top - strip.offsetHeight });
}
