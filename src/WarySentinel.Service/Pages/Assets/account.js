// Shows and hides what is typed. Without scripts the button stays hidden and the form works all the same.
for (const button of document.querySelectorAll('.pw button')) {
  const input = document.getElementById(button.getAttribute('aria-controls'));
  button.hidden = false;
  button.addEventListener('click', () => {
    const shown = input.type === 'text';
    input.type = shown ? 'password' : 'text';
    button.textContent = shown ? button.dataset.show : button.dataset.hide;
    button.setAttribute('aria-pressed', String(!shown));
    input.focus();
  });
  input.form.addEventListener('submit', () => {
    input.type = 'password';
  });
}
// Says while somebody types what a new password still lacks. The server decides; this spares a round.
for (const input of document.querySelectorAll('input[data-meter]')) {
  const { more, same, own, good } = JSON.parse(input.dataset.meter);
  const counts = new Intl.PluralRules(document.documentElement.lang);
  const said = document.createElement('p');
  said.className = 'meter';
  said.setAttribute('role', 'status');
  input.closest('.pw').after(said);
  const words = () =>
    [...input.form.querySelectorAll('[data-own]')]
      .flatMap((field) => [field.value, ...field.value.split(/[\s.@_+-]+/)])
      .map((word) => word.toLowerCase())
      .filter((word) => word.length >= 3);
  input.addEventListener('input', () => {
    const typed = [...input.value];
    const left = input.minLength - typed.length;
    const isOwn = words().some((word) => input.value.toLowerCase().includes(word) && typed.length - word.length < input.minLength / 2);
    const state = typed.length === 0 ? '' : left > 0 ? 'more' : new Set(typed).size <= 3 ? 'same' : isOwn ? 'own' : 'good';
    said.dataset.state = state;
    said.textContent = { '': '', more: (more[counts.select(left)] ?? more.other).replace('{0}', String(left)), same, own, good }[state];
  });
}
// A page brought back by the browser's "back" may be of somebody who has signed out since.
addEventListener('pageshow', (event) => {
  if (event.persisted) {
    location.reload();
  }
});

// A film behind the panel: only for whoever has not asked for less motion, and with a way to stop it (WCAG 2.2.2).
for (const film of document.querySelectorAll('video.film')) {
  const stop = document.querySelector('.film-stop');
  if (stop && !matchMedia('(prefers-reduced-motion: reduce)').matches) {
    const say = () => { stop.textContent = film.paused ? stop.dataset.play : stop.dataset.pause; };
    film.src = film.dataset.src;
    film.muted = true;
    film.addEventListener('play', say);
    film.addEventListener('pause', say);
    stop.addEventListener('click', () => (film.paused ? film.play() : film.pause()));
    film.play().then(() => { stop.hidden = false; say(); }, () => film.remove());
  } else {
    film.remove();
  }
}
