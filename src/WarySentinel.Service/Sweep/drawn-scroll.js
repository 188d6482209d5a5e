async () => {
  for (let step = 0; step < 10; step++) {
    window.scrollBy(0, 2000);
    await new Promise((done) => setTimeout(done, 30));
  }
  for (const folded of document.querySelectorAll("details:not([open])")) folded.open = true;
}
