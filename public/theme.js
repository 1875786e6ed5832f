// The theme that was chosen, else the system's. Runs before the first paint.
(() => {
  try {
    let theme = localStorage.getItem('mavrek:theme');
    if (theme !== 'light' && theme !== 'dark')
      theme = matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light';
    document.documentElement.dataset.theme = theme;
  } catch {
    // Without storage the style sheet follows the system.
  }
})();
