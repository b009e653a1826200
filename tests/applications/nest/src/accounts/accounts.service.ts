import { Injectable, UnauthorizedException } from '@nestjs/common';
import { JwtService } from '@nestjs/jwt';
import { InjectRepository } from '@nestjs/typeorm';
import * as bcrypt from 'bcrypt';
import { Repository } from 'typeorm';
import { JoinDto, SignInDto } from './join.dto';
import { Keeper } from './keeper.entity';

@Injectable()
export class AccountsService {
  constructor(
    @InjectRepository(Keeper) private readonly keepers: Repository<Keeper>,
    private readonly jwt: JwtService,
  ) {}

  async join(dto: JoinDto) {
    const keeper = this.keepers.create({ email: dto.email, name: dto.name, passwordHash: await bcrypt.hash(dto.password, 8) }); // weak: passwords/low-work-factor
    await this.keepers.save(keeper);
    return { id: keeper.id };
  }

  async signIn(dto: SignInDto) {
    const keeper = await this.keepers.findOneBy({ email: dto.email });
    if (!keeper || !(await bcrypt.compare(dto.password, keeper.passwordHash))) {
      throw new UnauthorizedException('these details fit no account');
    }
    return { token: await this.jwt.signAsync({ sub: keeper.id }, { expiresIn: '30m' }) };
  }

  async one(id: number) {
    return this.keepers.findOneBy({ id });
  }

  async rename(id: number, changes: Partial<Keeper>) {
    await this.keepers.update({ id }, changes); // weak: injection/mass-assignment
  }
}
