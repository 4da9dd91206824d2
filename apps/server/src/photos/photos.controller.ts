import type { PhotoView } from '@just-balance/contract';
import { PhotoPatch, PhotoQuery } from '@just-balance/contract/service';
import { Body, Controller, Get, Param, ParseUUIDPipe, Patch, Put, Query, Req, Res } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import { TakesBytes } from '../common/body.ts';
import { type Actor, Who } from '../common/request.ts';
import { PhotosService } from './photos.service.ts';

@ApiTags('photos')
@Controller()
export class PhotosController {
  constructor(private readonly photos: PhotosService) {}

  /** Without their bytes. */
  @Get('jobs/:id/photos')
  list(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<PhotoView[]> {
    return this.photos.list(who, id);
  }

  /** The body is the picture: JPEG, PNG or WebP. It is kept as a JPEG of ours. */
  @TakesBytes(12 * 1024 * 1024, 'image/*')
  @Put('jobs/:id/photos/:photoId')
  put(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('photoId', ParseUUIDPipe) photoId: string,
    @Query() query: PhotoQuery,
    @Req() req: Request,
  ): Promise<PhotoView> {
    return this.photos.put(who, id, photoId, query, req.body);
  }

  /** The picture; `small=1` at most 320 points across. It never changes. */
  @Get('jobs/:id/photos/:photoId')
  async image(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('photoId', ParseUUIDPipe) photoId: string,
    @Query('small') small: string | undefined,
    @Req() req: Request,
    @Res() res: Response,
  ): Promise<void> {
    const data = await this.photos.image(who, id, photoId, small === '1');
    res.setHeader('content-type', 'image/jpeg');
    // Kept by the browser, and asked for each time whether whoever looks now may: a tablet has many hands.
    res.setHeader('cache-control', 'private, no-cache');
    const tag = `"${photoId}${small === '1' ? '-small' : ''}"`;
    res.setHeader('etag', tag);
    if (req.headers['if-none-match'] === tag) res.status(304).end();
    else res.end(data);
  }

  @Patch('jobs/:id/photos/:photoId')
  patch(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('photoId', ParseUUIDPipe) photoId: string,
    @Body() body: PhotoPatch,
  ): Promise<PhotoView> {
    return this.photos.patch(who, id, photoId, body);
  }

  /** Pictures of good parts, of all jobs of the shop, newest first. */
  @Get('photos/good')
  good(@Who() who: Actor): Promise<(PhotoView & { jobId: string })[]> {
    return this.photos.good(who);
  }
}
