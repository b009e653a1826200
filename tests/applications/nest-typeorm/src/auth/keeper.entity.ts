import { Column, Entity, OneToMany, PrimaryGeneratedColumn } from 'typeorm';
import { Hive } from '../hives/hive.entity';

@Entity()
export class Keeper {
  @PrimaryGeneratedColumn() id: number;
  @Column({ unique: true }) email: string;
  @Column() password: string;
  @Column({ nullable: true }) phone: string;
  @Column({ default: 'member' }) role: string;
  @OneToMany(() => Hive, (hive) => hive.keeper) hives: Hive[];
}
