import { ForbiddenException, Injectable, NotFoundException } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { DataSource, Repository } from 'typeorm';
import { Hive } from './hive.entity';

@Injectable()
export class HivesService {
  constructor(@InjectRepository(Hive) private hives: Repository<Hive>, private dataSource: DataSource) {}

  list(keeperId: number) {
    return this.hives.find({ where: { keeperId } });
  }

  search(keeperId: number, q: string, sort: string) {
    return this.hives.createQueryBuilder('hive').where('hive.keeperId = :keeperId', { keeperId }).andWhere(`hive.name LIKE '%${q}%'`).orderBy(sort).getMany(); // weak: injection/sql
  }

  count(name: string) {
    return this.dataSource.query('SELECT count(*) FROM hive WHERE name = $1', [name]);
  }

  findOne(id: number) {
    return this.hives.findOneBy({ id }); // weak: records/no-owner-condition
  }

  async update(id: number, keeperId: number, dto: Partial<Hive>) {
    const hive = await this.hives.findOneBy({ id });
    if (!hive) throw new NotFoundException();
    if (hive.keeperId !== keeperId) throw new ForbiddenException();
    Object.assign(hive, dto);
    return this.hives.save(hive); // weak: injection/mass-assignment
  }

  remove(id: number, keeperId: number) {
    return this.hives.delete({ id, keeperId });
  }
}
