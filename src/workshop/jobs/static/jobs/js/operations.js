// The list of operations: dragged by their grips, by mouse or finger, or moved by arrow keys.

const { Sortable } = window;
const list = () => document.querySelector('#ops');

function move(item, to) {
  const count = list().children.length;
  if (to < 0 || to >= count || to === Number(item.dataset.at)) return;
  htmx.ajax('POST', item.getAttribute('hx-post'), {
    source: item, target: '#stations', swap: 'morph', values: { at: item.dataset.at, to },
  }).finally(inOrder);
}

// What was refused lies where it was.
function inOrder() {
  const items = [...(list()?.children ?? [])];
  const sorted = items.toSorted((a, b) => a.dataset.at - b.dataset.at);
  if (sorted.some((item, at) => item !== items[at])) list().append(...sorted);
}

document.addEventListener('keydown', (event) => {
  const grip = event.target.closest?.('[data-grip]');
  const way = { ArrowUp: -1, ArrowDown: 1 }[event.key];
  if (!grip || !way) return;
  event.preventDefault();
  const item = grip.closest('.op');
  const to = Number(item.dataset.at) + way;
  move(item, to);
  refocus = `grip-${to}`;
});

// What was found on the bed is pressed by Space or Enter too.
document.addEventListener('keydown', (event) => {
  if (!event.target.matches?.('.bed__found[role]') || ![' ', 'Enter'].includes(event.key)) return;
  event.preventDefault();
  event.target.dispatchEvent(new MouseEvent('click', { bubbles: true }));
});

// The answer brings the list anew; the keyboard stays on what it moved.
let refocus = '';
document.addEventListener('htmx:afterSettle', (event) => {
  if (event.target.id !== 'stations') return;
  const found = refocus ? document.getElementById(refocus) : null;
  refocus = '';
  found?.focus();
});

function begin() {
  const ops = list();
  if (!ops || Sortable.get(ops)) return;
  new Sortable(ops, {
    handle: '[data-grip]', animation: 120, ghostClass: 'is-dragged', fallbackClass: 'is-held', forceFallback: true,
    // Until the answer comes, the page shows what was asked for.
    onEnd: ({ item, newIndex }) => move(item, newIndex),
  });
}
document.addEventListener('htmx:afterSettle', begin);
begin();
