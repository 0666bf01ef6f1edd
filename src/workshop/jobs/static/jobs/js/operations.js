// The list of operations: dragged, or moved by arrow keys on its grips.

const MIME = 'text/x-ember-operation';
const list = () => document.querySelector('#ops');

function move(item, to) {
  const count = list().children.length;
  if (to < 0 || to >= count || to === Number(item.dataset.at)) return;
  htmx.ajax('POST', item.getAttribute('hx-post'), {
    source: item, target: '#stations', swap: 'morph', values: { at: item.dataset.at, to },
  });
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

// An outline on the bed is pressed by Space or Enter too.
document.addEventListener('keydown', (event) => {
  if (!event.target.matches?.('.ring, .bed__found[role]') || ![' ', 'Enter'].includes(event.key)) return;
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

document.addEventListener('dragstart', (event) => {
  const item = event.target.closest?.('.op');
  if (!item) return;
  event.dataTransfer.setData(MIME, item.dataset.at);
  event.dataTransfer.effectAllowed = 'move';
  item.classList.add('is-dragged');
});
document.addEventListener('dragend', (event) => event.target.closest?.('.op')?.classList.remove('is-dragged'));
const over = (event) => event.dataTransfer?.types.includes(MIME) && event.target.closest?.('.op');
document.addEventListener('dragover', (event) => {
  if (!over(event)) return;
  event.preventDefault();
  list().querySelectorAll('.is-over').forEach((one) => one.classList.remove('is-over'));
  over(event).classList.add('is-over');
});
document.addEventListener('drop', (event) => {
  const target = over(event);
  if (!target) return;
  event.preventDefault();
  event.stopPropagation();
  const item = list().querySelector(`[data-at="${event.dataTransfer.getData(MIME)}"]`);
  if (item) move(item, Number(target.dataset.at));
});
