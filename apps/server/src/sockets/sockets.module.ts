import { Module } from '@nestjs/common';
import { AccountsModule } from '../accounts/accounts.module.ts';
import { LiveModule } from '../live/live.module.ts';
import { LiveGateway } from './live.gateway.ts';

/** The socket that screens listen on. */
@Module({
  imports: [AccountsModule, LiveModule],
  providers: [LiveGateway],
  exports: [LiveGateway],
})
export class SocketsModule {}
