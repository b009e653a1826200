import { Column, Entity, ManyToOne, PrimaryGeneratedColumn } from 'typeorm';
import { Keeper } from '../auth/keeper.entity';

@Entity()
export class Hive {
  @PrimaryGeneratedColumn() id: number;
  @Column() name: string;
  @Column({ nullable: true }) notes: string;
  @Column() keeperId: number;
  @ManyToOne(() => Keeper, (keeper) => keeper.hives) keeper: Keeper;
}
