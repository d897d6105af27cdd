/** What is asked of Plotly; the package comes without types of its own. */
declare module 'plotly.js-basic-dist-min' {
  export interface Drawn extends HTMLElement {
    on(event: 'plotly_click', take: (event: { points: { customdata: string[] }[] }) => void): void;
  }
  export interface Plotly {
    react(element: HTMLElement, data: object[], layout: object, config: object): Promise<Drawn>;
    purge(element: HTMLElement): void;
  }
  const plotly: Plotly;
  export default plotly;
}
