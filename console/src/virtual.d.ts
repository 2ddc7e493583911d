/** Towns by name, with their province, country, its two codes, and degrees north and east; see vite.config.ts. */
declare module 'virtual:cities' {
  const cities: [
    city: string,
    province: string,
    country: string,
    iso2: string,
    iso3: string,
    latitude: number,
    longitude: number,
  ][]
  export default cities
}
