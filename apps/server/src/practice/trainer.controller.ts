import {
  AnswerRequest,
  AskRequest,
  type AttemptLine,
  type AttemptView,
  DriveAnswerRequest,
  NewAttemptRequest,
  type ScenarioView,
} from '@just-balance/contract';
import type { PracticeScenario } from '@just-balance/core/practice';
import { Body, Controller, Get, HttpCode, Param, ParseUUIDPipe, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { Costly } from '../common/cost.ts';
import { type Actor, Who } from '../common/request.ts';
import { Trainer } from './trainer.service.ts';

const Id = () => Param('attemptId', ParseUUIDPipe);

@ApiTags('practice')
@Controller('practice')
export class TrainerController {
  constructor(private readonly trainer: Trainer) {}

  @Get('scenarios')
  scenarios(@Who() who: Actor): Promise<ScenarioView[]> {
    return this.trainer.scenarios(who);
  }

  /** A practice car as a file to pass on; what is wrong stands in it. */
  @Get('scenarios/:scenarioId/file')
  file(@Who() who: Actor, @Param('scenarioId') id: string): Promise<PracticeScenario> {
    return this.trainer.fileFor(who, id);
  }

  /** One's own tries; a lead sees everybody's. */
  @Get('attempts')
  list(@Who() who: Actor): Promise<AttemptLine[]> {
    return this.trainer.list(who);
  }

  @Costly(60)
  @Post('attempts')
  begin(@Who() who: Actor, @Body() body: NewAttemptRequest): Promise<AttemptView> {
    return this.trainer.begin(who, body);
  }

  @Get('attempts/:attemptId')
  async get(@Who() who: Actor, @Id() id: string): Promise<AttemptView> {
    return this.trainer.get(who, id);
  }

  @Costly(120)
  @Post('attempts/:attemptId/ask')
  @HttpCode(200)
  ask(@Who() who: Actor, @Id() id: string, @Body() body: AskRequest): Promise<AttemptView> {
    return this.trainer.ask(who, id, body);
  }

  @Costly(60)
  @Post('attempts/:attemptId/answer')
  @HttpCode(200)
  answer(@Who() who: Actor, @Id() id: string, @Body() body: AnswerRequest): Promise<AttemptView> {
    return this.trainer.answer(who, id, body);
  }

  /** Name what kept a drive from finishing. */
  @Costly(60)
  @Post('attempts/:attemptId/drive')
  @HttpCode(200)
  answerDrive(@Who() who: Actor, @Id() id: string, @Body() body: DriveAnswerRequest): Promise<AttemptView> {
    return this.trainer.answerDrive(who, id, body);
  }

  /** End it without an answer: no points, and what was wrong is told. */
  @Costly(60)
  @Post('attempts/:attemptId/give-up')
  @HttpCode(200)
  giveUp(@Who() who: Actor, @Id() id: string): Promise<AttemptView> {
    return this.trainer.giveUp(who, id);
  }

  @Post('attempts/:attemptId/sign')
  @HttpCode(200)
  sign(@Who() who: Actor, @Id() id: string): Promise<AttemptView> {
    return this.trainer.sign(who, id);
  }
}
