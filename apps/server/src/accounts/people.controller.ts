import {
  type LinkGiven,
  NewPersonRequest,
  type OwnSessionView,
  PasswordRequest,
  PersonPatchRequest,
  type PersonView,
} from '@just-balance/contract';
import { Body, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Patch, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { Costly } from '../common/cost.ts';
import { notHere } from '../common/errors.ts';
import { type Actor, Who } from '../common/request.ts';
import { People } from './people.service.ts';
import { Sessions } from './sessions.ts';

const Id = () => Param('personId', ParseUUIDPipe);

/** The people of the shop, by its lead. */
@ApiTags('people')
@Controller('people')
export class PeopleController {
  constructor(private readonly people: People) {}

  @Get()
  list(@Who() who: Actor): Promise<PersonView[]> {
    return this.people.list(who);
  }

  @Post()
  add(@Who() who: Actor, @Body() body: NewPersonRequest): Promise<PersonView> {
    return this.people.add(who, body);
  }

  @Patch(':personId')
  change(@Who() who: Actor, @Id() id: string, @Body() body: PersonPatchRequest): Promise<PersonView> {
    return this.people.change(who, id, body);
  }

  @Costly(60)
  @Post(':personId/link')
  link(@Who() who: Actor, @Id() id: string): Promise<LinkGiven> {
    return this.people.link(who, id);
  }

  @Delete(':personId/sessions')
  @HttpCode(204)
  signOut(@Who() who: Actor, @Id() id: string): Promise<void> {
    return this.people.signOutPerson(who, id);
  }
}

/** What everybody may do about their own account. */
@ApiTags('account')
@Controller('account')
export class AccountController {
  constructor(
    private readonly people: People,
    private readonly sessions: Sessions,
  ) {}

  @Get('sessions')
  list(@Who() who: Actor): Promise<OwnSessionView[]> {
    return this.sessions.listOf(who);
  }

  /** Everywhere but here. */
  @Delete('sessions')
  @HttpCode(204)
  signOutElsewhere(@Who() who: Actor): Promise<void> {
    return this.people.signOutElsewhere(who);
  }

  @Delete('sessions/:sessionId')
  @HttpCode(204)
  async signOutOne(@Who() who: Actor, @Param('sessionId') sessionId: string): Promise<void> {
    if (!/^[0-9a-f]{64}$/.test(sessionId)) throw notHere('session');
    return this.people.signOutOne(who, sessionId);
  }

  @Post('password')
  @HttpCode(204)
  password(@Who() who: Actor, @Body() body: PasswordRequest): Promise<void> {
    return this.people.changePassword(who, body.current, body.next);
  }
}
