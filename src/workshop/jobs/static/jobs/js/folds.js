// Which fold of a station is open: one at a time, kept over answers and reloads.

document.addEventListener('toggle', (event) => {
  const fold = event.target;
  if (!fold.matches?.('.fold')) return;
  // By hand: a shared name would close the fold of an answer while the old one is there.
  if (fold.open) {
    fold.closest('.station__body')?.querySelectorAll('.fold[open]').forEach((other) => {
      if (other !== fold) other.open = false;
    });
  }
  const open = document.querySelector('.fold[open]')?.dataset.fold ?? 'none';
  document.cookie = `fold=${open}; path=/; max-age=31536000; SameSite=Lax`;
  if (fold.open) fold.scrollIntoView({ block: 'nearest' });
  document.dispatchEvent(new CustomEvent('ember:fold'));
}, true);
