import { Body, Controller, Delete, Get, Header, Param, ParseIntPipe, Patch, Query, Req, Res, UseGuards } from '@nestjs/common';
import { JwtAuthGuard } from '../auth/jwt-auth.guard';
import { HivesService } from './hives.service';

@UseGuards(JwtAuthGuard)
@Controller('hives')
export class HivesController {
  constructor(private readonly hives: HivesService) {}

  @Get()
  list(@Req() req) {
    return this.hives.list(req.user.id);
  }

  @Get('search')
  search(@Req() req, @Query('q') q: string, @Query('sort') sort: string) {
    return this.hives.search(req.user.id, q, sort);
  }

  @Get(':id')
  one(@Param('id', ParseIntPipe) id: number) {
    return this.hives.findOne(id);
  }

  @Patch(':id')
  update(@Param('id', ParseIntPipe) id: number, @Req() req, @Body() body: any) {
    return this.hives.update(id, req.user.id, body);
  }

  @Delete(':id')
  remove(@Param('id', ParseIntPipe) id: number, @Req() req) {
    return this.hives.remove(id, req.user.id);
  }

  @Get(':id/label')
  @Header('Content-Type', 'text/html')
  label(@Param('id') id: string, @Query('note') note: string) {
    return `<h1>Hive ${id}</h1><p>${note}</p>`; // weak: injection/page-output
  }

  @Get(':id/go')
  go(@Query('to') to: string, @Res() res) {
    res.redirect(to); // weak: injection/redirect
  }
}
