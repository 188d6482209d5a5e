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
// A page brought back by the browser's "back" may be of somebody who has signed out since.
addEventListener('pageshow', (event) => {
  if (event.persisted) {
    location.reload();
  }
});
