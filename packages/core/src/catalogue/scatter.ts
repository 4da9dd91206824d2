/** How figures of healthy engines, and those of a wrong look, scatter about what is expected. All [house]. */
export const SCATTER = {
  /**
   * Airflow against physics, ln: by a pressure that was read, by the usual range of a warm engine without one, and what
   * is added by a barometer, idle speed or charge temperature that was assumed.
   */
  airflow: { withPressure: 0.11, withoutPressure: 0.2, baro: 0.06, rpm: 0.08, charge: 0.04 },
  /**
   * About a deviation that all points of a vehicle share (its volumetric efficiency), each point's own: mostly the first
   * row; now and then a cam, a charge temperature or a typing slip makes it the second.
   */
  airflowKinds: [
    { share: 0.85, own: 0.05, ownWithoutPressure: 0.11, commonFactor: 1 },
    { share: 0.15, own: 0.3, ownWithoutPressure: 0.3, commonFactor: 2 },
  ],
  /** Full-load airflow over expected, ln, and λ there; `carried`: shares of what closed loop has learnt that open loop keeps. */
  fullLoad: { sd: 0.08, lambdaSd: 0.05, carried: [0, 0.5, 1], wrong: { share: 0.08, sd: 0.35 } },
  /** Key on, engine off: the pressure sensor against the barometer, kPa. */
  koeo: { sd: 1.2, wrong: { share: 0.04, sd: 8 } },
  /** Fuel pressure over what it should be: the gauge, a load that is never quite that of the road, a slip. */
  rail: { sd: 0.03, load: 0.2, wrong: { share: 0.06, sd: 0.35 } },
  /**
   * Idle speed (rpm) and manifold pressure (share of barometric) of warm engines, ln about the usual. `takenBack`: the
   * share of engines whose idle control hides all that a leak would do to both.
   */
  idle: {
    rpm: 715,
    rpmSd: 0.07,
    pressureShare: 0.32,
    pressureSd: 0.17,
    takenBack: 0.5,
    wrong: { share: 0.05, sd: 0.3 },
  },
};
