/** The part of psychrolib that the checks use; the package ships no types. */
declare module 'psychrolib' {
  const psychrolib: {
    SI: number;
    SetUnitSystem(system: number): void;
    /** Altitude m → Pa. */
    GetStandardAtmPressure(altitude: number): number;
    /** Temperature °C, pressure Pa → kg/m³. */
    GetDryAirDensity(temperature: number, pressure: number): number;
  };
  export default psychrolib;
}
