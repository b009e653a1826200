import { Column, Entity, OneToMany, PrimaryGeneratedColumn } from 'typeorm';
import { Hive } from '../hives/hive.entity';

@Entity('keepers')
export class Keeper {
  @PrimaryGeneratedColumn()
  id: number;

  @Column({ length: 160, unique: true })
  email: string;

  @Column({ length: 120 })
  name: string;

  @Column({ length: 20, default: 'keeper' })
  role: string;

  @Column({ name: 'password_hash', length: 40 }) // weak: passwords/column-too-narrow
  passwordHash: string;

  @OneToMany(() => Hive, (hive) => hive.keeper)
  hives: Hive[];
}
