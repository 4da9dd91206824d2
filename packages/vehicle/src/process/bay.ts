import type { CanFrame } from '@just-balance/core/can';
import { type Car, EcuPort, SIM_FAULTS, type SlcanPort, STEP_US } from '../index.ts';
import type { ControlCommand } from './control.ts';

/** The most simulated time one tick may catch up: a machine that slept does not replay the night. */
const MAX_CATCH_UP_US = 500_000;

/** An ECU answers well inside the 50 ms that ISO 15765-4 allows (P2); real ones take 5–30 ms. Common practice. */
const ECU_ANSWER_MS = 18;

/** One bay: a car, its bus and the clients plugged into it. */
export class Bay {
  readonly listeners = new Set<SlcanPort>();
  private readonly ecu: EcuPort;
  private lastUs: number | null = null;
  private owedUs = 0;

  constructor(
    readonly number: number,
    readonly car: Car,
  ) {
    this.ecu = new EcuPort(car);
  }

  /** A client's frame goes to the ECU and to the other clients; answers go to all. */
  transmit(frame: CanFrame, from: SlcanPort): void {
    for (const l of this.listeners) if (l !== from) l.deliver(frame);
    const answers = this.ecu.receive(frame, this.car.timeUs);
    if (answers.length === 0) return;
    setTimeout(() => {
      for (const f of answers) for (const l of this.listeners) l.deliver(f);
    }, ECU_ANSWER_MS);
  }

  /** Follow the wall clock. */
  advance(nowUs: number): void {
    if (this.lastUs !== null) this.owedUs = Math.min(this.owedUs + nowUs - this.lastUs, MAX_CATCH_UP_US);
    this.lastUs = nowUs;
    while (this.owedUs >= STEP_US) {
      this.car.step();
      this.owedUs -= STEP_US;
    }
  }

  perform(c: ControlCommand): void {
    switch (c.do) {
      case 'key':
        return c.on === false ? this.car.stop(false) : this.car.start();
      case 'koeo':
        return this.car.stop(true);
      case 'idle':
        this.car.start();
        this.car.holdRpm = null;
        return;
      case 'hold':
        if (!(c.rpm !== undefined && c.rpm >= 1000 && c.rpm <= 4500))
          throw new RangeError('hold an engine speed of 1,000 to 4,500 rpm');
        this.car.start();
        this.car.holdRpm = c.rpm;
        return;
      case 'fault':
        return this.car.inject({ id: c.fault ?? '', severity: c.severity ?? Number.NaN });
      case 'repair':
        return this.car.inject(null);
      case 'warm':
        return this.car.warmUp();
      case 'cold':
        return this.car.cool();
      case 'settle':
        return this.car.settle();
      default:
        throw new RangeError(`the bay does not know "${c.do}"`);
    }
  }

  view(): unknown {
    const { spec, surroundings, fault, holdRpm, engine } = this.car;
    return {
      bay: this.number,
      vehicle: {
        label: spec.label,
        note: spec.note,
        year: spec.year,
        vin: spec.vin,
        odometerKm: spec.odometerKm,
        fuel: 'petrol',
        metering: 'maf',
        induction: 'na',
        injection: 'port',
        displacementL: spec.displacementL,
        cylinders: spec.cylinders,
        banks: spec.banks,
        ethanolPctCalibrated: 10,
        limits: { fuelPressureKPa: spec.railKPa, fuelPressureReference: 'fixed' },
      },
      key: engine.state.keyOn,
      rpm: Math.round(engine.state.rpm),
      target: !engine.state.running
        ? engine.state.keyOn
          ? 'key on, engine off'
          : 'off'
        : holdRpm
          ? `holding ${holdRpm} rpm`
          : 'idle',
      ectC: Math.round(engine.state.ectC * 10) / 10,
      fault,
      faults: SIM_FAULTS.filter((f) => !f.twoBanksOnly || spec.banks === 2),
      baroKPa: surroundings.baroKPa,
      airC: surroundings.airC,
    };
  }
}
