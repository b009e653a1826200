import { Body, Controller, Delete, Get, Param, Patch, UseGuards } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { Repository } from 'typeorm';
import { exec } from 'child_process';
import { JwtAuthGuard } from '../auth/jwt-auth.guard';
import { Roles, RolesGuard } from '../auth/roles.guard';
import { Keeper } from '../auth/keeper.entity';

@Controller('office')
@UseGuards(JwtAuthGuard, RolesGuard)
export class OfficeController {
  constructor(@InjectRepository(Keeper) private keepers: Repository<Keeper>) {}

  @Get('keepers')
  @Roles('office')
  list() {
    return this.keepers.find({ select: ['id', 'email'] });
  }

  @Get('keepers/:id')
  @Roles('office')
  one(@Param('id') id: number) {
    return this.keepers.findOneBy({ id }); // weak: exposure/hash-in-response
  }

  @Patch('keepers/:id/role')
  @Roles('office')
  role(@Param('id') id: number, @Body('role') role: string) {
    return this.keepers.update(id, { role });
  }

  @Delete('keepers/:id')
  remove(@Param('id') id: number) {
    return this.keepers.delete(id); // weak: records/no-owner-condition
  }

  @Patch('print')
  @Roles('office')
  print(@Body('printer') printer: string) {
    exec(`lp -d ${printer} /srv/label.pdf`); // weak: injection/command
  }
}
