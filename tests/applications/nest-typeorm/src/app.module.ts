import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { AuthModule } from './auth/auth.module';
import { HivesController } from './hives/hives.controller';
import { HivesService } from './hives/hives.service';
import { OfficeController } from './office/office.controller';
import { Hive } from './hives/hive.entity';
import { Keeper } from './auth/keeper.entity';

@Module({
  imports: [TypeOrmModule.forRoot({ type: 'postgres', url: process.env.DATABASE_URL, entities: [Hive, Keeper] }), TypeOrmModule.forFeature([Hive, Keeper]), AuthModule],
  controllers: [HivesController, OfficeController],
  providers: [HivesService],
})
export class AppModule {}
