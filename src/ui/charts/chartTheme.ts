/** The theme's colours and font as a canvas wants them: resolved, because it knows no CSS variables. */
export function chartTheme() {
  const style = getComputedStyle(document.documentElement);
  const colour = (name: string) => style.getPropertyValue(`--chakra-colors-${name}`).trim();
  return {
    ink: colour("ink"),
    quiet: colour("quiet"),
    hairline: colour("hairline"),
    accent: colour("accent-solid"),
    doubt: colour("doubt"),
    paper: colour("paper"),
    accentWash: colour("accent-wash"),
    series: [colour("series-blue"), colour("series-green"), colour("series-rose")] as const,
    font: "'Archivo Variable', system-ui, sans-serif",
  };
}
