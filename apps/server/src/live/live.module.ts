import { Module } from '@nestjs/common';
import { Live } from './live.service.ts';

/** Who watches which job; told by everybody, knows nobody. */
@Module({
  providers: [Live],
  exports: [Live],
})
export class LiveModule {}
