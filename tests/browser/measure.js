/** What is wrong with the size of a page: its width, its text, what is pressed on it. */
([least, drawn, target]) => {
  const told = [];
  const wide = document.documentElement.scrollWidth - innerWidth;
  if (wide > 0) told.push(`${wide} px too wide`);
  const heads = document.querySelectorAll("h1").length;
  if (heads !== 1) told.push(`${heads} h1`);

  const seen = (element) => element.checkVisibility({ opacityProperty: true, visibilityProperty: true });
  const unread = ".sr-only, script, style, datalist, option, title, .qr";
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  const small = new Set();
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    const element = node.parentElement;
    const words = node.data.trim();
    if (!words || !seen(element) || element.closest(unread)) continue;
    const box = element.getBoundingClientRect();
    if (box.width < 2 || box.height < 2) continue;
    const size = parseFloat(getComputedStyle(element).fontSize);
    const inDrawing = element.closest("svg");
    const shown = inDrawing ? size * Math.hypot(element.getScreenCTM().a, element.getScreenCTM().b) : size;
    if (shown + 0.05 < (inDrawing ? drawn : least))
      small.add(`${shown.toFixed(1)} px: ${words.slice(0, 40)}`);
  }
  told.push(...[...small].slice(0, 4));

  const pressed = [
    "button, .button, .quietlink, select, textarea, input:not([type=hidden]), summary",
    ".rail a, .views a, .sections a, [role=button]",
  ].join(", ");
  for (const element of document.querySelectorAll(pressed)) {
    if (!seen(element) || element.closest(".sr-only, dialog:not([open]), svg")) continue;
    const ticked = element.matches("[type=checkbox], [type=radio]");
    const box = ((ticked && element.closest("label")) || element).getBoundingClientRect();
    if (box.width < 2 || Math.round(box.height) >= target) continue;
    const name = (element.innerText || element.name || "").trim().slice(0, 40);
    told.push(`${box.height.toFixed(0)} px high: ${element.tagName} ${name}`);
  }
  return told;
};
