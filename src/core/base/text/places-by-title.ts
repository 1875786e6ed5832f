const MOST_NAMED = 8;

/** What is so, each with the places where it is, as lines of text: `keys: PA.KEY, PB.KEY and 3 more`. */
export class PlacesByTitle {
  private readonly places = new Map<string, Set<string>>();

  add(title: string, place: string): void {
    this.places.set(title, (this.places.get(title) ?? new Set()).add(place));
  }

  lines(): string[] {
    return [...this.places].map(([title, places]) => {
      const more = places.size - MOST_NAMED;
      return `${title}: ${[...places].slice(0, MOST_NAMED).join(', ')}${more > 0 ? ` and ${more} more` : ''}`;
    });
  }
}
