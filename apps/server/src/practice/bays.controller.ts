import { BayCommand, type BayView } from '@just-balance/contract';
import {
  BadRequestException,
  Body,
  ConflictException,
  Controller,
  Get,
  HttpCode,
  Param,
  ParseIntPipe,
  Post,
} from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { BayHolds } from './bayHolds.ts';
import { BayRefusal, SimControl } from './simControl.ts';

/** The bay panel: what may be done to a simulated vehicle. */
@ApiTags('bays')
@Controller('bays')
export class BaysController {
  constructor(
    private readonly sim: SimControl,
    private readonly holds: BayHolds,
  ) {}

  @Get()
  list(): Promise<BayView[]> {
    return this.sim.available ? this.sim.bays() : Promise.resolve([]);
  }

  @Post(':bay')
  @HttpCode(200)
  async perform(
    @Who() who: Actor,
    @Param('bay', ParseIntPipe) bay: number,
    @Body() body: BayCommand,
  ): Promise<BayView> {
    if (!(await this.holds.take(bay, who.shopId)))
      throw new ConflictException({ statusCode: 409, message: `bay ${bay} is in use by another shop` });
    const { command, ...rest } = body;
    try {
      const reply = await this.sim.send({ do: command, bay, ...rest });
      return { ...reply.bays![0]!, ...(reply.result ? { result: reply.result } : {}) };
    } catch (e) {
      if (e instanceof BayRefusal) throw new BadRequestException({ statusCode: 400, message: e.message });
      throw e;
    }
  }
}
