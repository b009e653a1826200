import { Column, Entity, ManyToOne, PrimaryGeneratedColumn } from 'typeorm';
import { Keeper } from '../accounts/keeper.entity';

@Entity('hives')
export class Hive {
  @PrimaryGeneratedColumn()
  id: number;

  @Column({ length: 80 })
  name: string;

  @Column()
  frames: number;

  @ManyToOne(() => Keeper, (keeper) => keeper.hives)
  keeper: Keeper;
}
