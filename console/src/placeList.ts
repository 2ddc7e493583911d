import cities from 'virtual:cities'

// Where some thousand towns of the world lie, by the list of the package city-timezones: what it has is proposed, and never taken
// without being asked.

/** Where a place of a name may lie. */
export interface Proposal {
  latitude: number
  longitude: number
  /** What tells it from others of its name. */
  of: string
}

const folded = (text: string) => text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase().trim()

/** proposals are the towns of a name in a country; where the country is not known, in any. */
export function proposals(place: string, country: string): Proposal[] {
  const name = folded(place)
  const land = folded(country)
  return cities
    .filter(
      ([city, , ...of]) =>
        folded(city) === name && (!land || of.slice(0, 3).some((c) => folded(String(c)) === land)),
    )
    .map(([, province, of, , , latitude, longitude]) => ({
      latitude,
      longitude,
      of: [province, of].filter(Boolean).join(', '),
    }))
}
