import { BayCommand, type BayView } from '@just-balance/contract';
import {
  BadRequestException,
  Body,
  Controller,
  Get,
  HttpCode,
  Inject,
  Param,
  ParseIntPipe,
  Post,
} from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { BayRefusal, SimControl } from './simControl.ts';

/** The bay panel: what may be done to a simulated vehicle. */
@ApiTags('bays')
@Controller('bays')
export class BaysController {
  constructor(@Inject(SimControl) private readonly sim: SimControl) {}

  @Get()
  list(): Promise<BayView[]> {
    return this.sim.available ? this.sim.bays() : Promise.resolve([]);
  }

  @Post(':bay')
  @HttpCode(200)
  async perform(@Param('bay', ParseIntPipe) bay: number, @Body() body: BayCommand): Promise<BayView> {
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
