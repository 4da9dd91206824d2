import type { AdapterView } from '@just-balance/contract';
import { BadRequestException, Inject, Injectable } from '@nestjs/common';
import { CONFIG, type ServerConfig } from '../config.ts';
import { SimControl } from '../practice/simControl.ts';

export interface Target {
  host: string;
  port: number;
  bay: number | null;
}

/** Which adapter addresses exist and may be reached: the simulated bays, and what JB_LINK_ALLOW names. */
@Injectable()
export class Addresses {
  constructor(
    @Inject(CONFIG) private readonly config: ServerConfig,
    private readonly sim: SimControl,
  ) {}

  async list(): Promise<AdapterView[]> {
    const bays = this.sim.available ? await this.sim.bays().catch(() => []) : [];
    return [
      ...bays.map((b) => ({
        address: `sim:${b.bay}`,
        label: `Bay ${b.bay} adapter (simulated ${b.vehicle.label})`,
        simulated: true,
      })),
      ...this.config.linkAllow.map((a) => ({ address: a, label: a, simulated: false })),
    ];
  }

  /** Throws 400 saying why an address may not be used. */
  resolve(address: string): Target {
    const sim = /^sim:(\d+)$/.exec(address);
    if (sim) {
      if (!this.config.sim)
        throw new BadRequestException({ statusCode: 400, message: 'adapter: no simulated vehicle with this start' });
      return { host: '127.0.0.1', port: this.config.sim.port, bay: Number(sim[1]) };
    }
    if (!this.config.linkAllow.includes(address)) {
      throw new BadRequestException({
        statusCode: 400,
        message: `adapter: ${address} is not allowed; the lead names allowed addresses in JB_LINK_ALLOW`,
      });
    }
    const m = /^(?:tcp:\/\/)?([^:/]+):(\d+)$/.exec(address);
    if (!m) throw new BadRequestException({ statusCode: 400, message: `adapter: "${address}" is not host:port` });
    return { host: m[1]!, port: Number(m[2]), bay: null };
  }
}
