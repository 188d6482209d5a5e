// Fills the places of a page with what this visitor may have, and takes out of its menus what they may not see listed.
//   <div data-wary-part="/parts/members.html" data-wary-else="/parts/join.html"></div>
//   <wary-form name="sign-in" to="/members"></wary-form>
//   <span data-wary-price="product:sky-1">12.90 €</span>
//   <nav data-wary-menu> … </nav>      (every nav is looked at when none says so)
// What a visitor may not have never reaches the browser: the service reads a part only after it has decided.
(() => {
  const script = document.currentScript;
  const ask = new URL('parts', script.src);
  const run = async () => {
    const places = [...document.querySelectorAll('[data-wary-part]')];
    const forms = [...document.querySelectorAll('wary-form')];
    const prices = [...document.querySelectorAll('[data-wary-price]')];
    const marked = document.querySelectorAll('[data-wary-menu]');
    const menus = marked.length > 0 ? marked : document.querySelectorAll('nav');
    const links = [...menus].flatMap((menu) => [...menu.querySelectorAll('a[href]')]).filter((a) => a.origin === location.origin);
    const response = await fetch(ask, {
      method: 'POST',
      credentials: 'same-origin',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({
        page: location.pathname + location.search,
        parts: places.map((place) => ({ in: place.dataset.waryPart, else: place.dataset.waryElse ?? null })),
        links: links.map((a) => a.pathname + a.search),
        forms: forms.map((form) => form.getAttribute('name') ?? ''),
        to: forms.map((form) => form.getAttribute('to')),
        prices: prices.map((place) => ({
          item: place.dataset.waryPrice,
          quantity: place.dataset.waryQuantity ?? null,
          currency: place.dataset.waryCurrency ?? null,
        })),
      }),
    });
    if (!response.ok) return;
    const given = await response.json();
    places.forEach((place, at) => {
      place.innerHTML = given.parts[at].html;
      place.dataset.waryShows = given.parts[at].which;
    });
    forms.forEach((form, at) => {
      if (given.forms[at]) form.outerHTML = given.forms[at];
      else form.remove();
    });
    prices.forEach((place, at) => {
      const price = given.prices[at];
      if (!price) return;
      for (const holds of ['value', 'content']) if (place.hasAttribute(holds)) place.setAttribute(holds, price.amount);
      place.textContent = price.text;
    });
    links.forEach((link, at) => {
      if (given.links[at] === 'hidden') drop(link);
      else if (given.links[at] === 'listed') link.insertAdjacentHTML('beforeend', given.mark);
    });
    document.dispatchEvent(new CustomEvent('wary-parts', { detail: given }));
  };
  // A link goes with the list entry that holds it, and an emptied list with it.
  const drop = (element) => {
    const entry = element.closest('li, tr, dt, dd, option') ?? element;
    const list = entry.parentElement?.closest('ul, ol, menu, dl, table, select');
    entry.remove();
    if (list && !list.querySelector('li, tr, dt, dd, option')) {
      const holder = list.parentElement?.closest('li');
      list.remove();
      if (holder && holder.textContent.trim() === '') drop(holder);
    }
  };
  if (document.readyState === 'loading') document.addEventListener('DOMContentLoaded', run);
  else run();
})();
