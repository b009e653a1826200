import { Body, Controller, Delete, Get, Param, ParseIntPipe, Post, Query, Req, Res, UseGuards } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { DataSource, Repository } from 'typeorm';
import { JwtAuthGuard } from '../auth/jwt-auth.guard';
import { Hive } from './hive.entity';

@Controller('hives')
@UseGuards(JwtAuthGuard)
export class HivesController {
  constructor(
    @InjectRepository(Hive) private readonly hives: Repository<Hive>,
    private readonly source: DataSource,
  ) {}

  @Get()
  async list(@Req() request, @Query('sort') sort: string) {
    const column = ['name', 'frames'].includes(sort) ? sort : 'name';
    return this.hives.createQueryBuilder('hive').where('hive.keeperId = :id', { id: request.user.sub }).orderBy(`hive.${column}`).getMany();
  }

  @Get('search')
  async search(@Query('part') part: string) {
    return this.hives.createQueryBuilder('hive').where(`hive.name LIKE '%${part}%'`).getMany(); // weak: injection/sql
  }

  @Get('count')
  async count(@Query('district') district: string) {
    const rows = await this.source.query('SELECT count(*) FROM hives WHERE district = $1', [district]);
    const old = await this.source.query(`SELECT count(*) FROM old_hives WHERE district = '${district}'`); // weak: injection/sql
    return { rows: rows.length, old: old.length };
  }

  @Post()
  async create(@Req() request, @Body('name') name: string) {
    const hive = this.hives.create({ name, keeper: { id: request.user.sub } });
    return this.hives.save(hive);
  }

  @Delete(':id')
  async remove(@Param('id', ParseIntPipe) id: number, @Req() request) {
    await this.hives.delete({ id, keeper: { id: request.user.sub } });
  }

  @Get(':id/go')
  go(@Query('to') to: string, @Res() response) {
    response.redirect(to); // weak: injection/redirect
  }
}
