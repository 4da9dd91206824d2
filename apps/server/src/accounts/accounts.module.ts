import { Module } from '@nestjs/common';
import { LiveModule } from '../live/live.module.ts';
import { Attempts } from './attempts.ts';
import { AccountController, PeopleController } from './people.controller.ts';
import { People } from './people.service.ts';
import { SessionController } from './session.controller.ts';
import { Sessions } from './sessions.ts';
import { SetupToken } from './setup.ts';

/** Who is asking, what they may do, how they get in. */
@Module({
  imports: [LiveModule],
  controllers: [SessionController, PeopleController, AccountController],
  providers: [Sessions, SetupToken, Attempts, People],
  exports: [Sessions, SetupToken],
})
export class AccountsModule {}
