import { Injectable, NotFoundException, UnauthorizedException } from '@nestjs/common';
import { JwtService } from '@nestjs/jwt';
import { InjectRepository } from '@nestjs/typeorm';
import { Repository } from 'typeorm';
import * as bcrypt from 'bcrypt';
import { Keeper } from './keeper.entity';
import { JoinDto, SignInDto } from './dto';

@Injectable()
export class AuthService {
  constructor(@InjectRepository(Keeper) private keepers: Repository<Keeper>, private jwt: JwtService) {}

  async join(dto: JoinDto) {
    const keeper = this.keepers.create({ ...dto, password: await bcrypt.hash(dto.password, 10) });
    return this.keepers.save(keeper);
  }

  async signIn(dto: SignInDto) {
    const keeper = await this.keepers.findOne({ where: { email: dto.email } });
    if (!keeper) throw new NotFoundException('No such keeper'); // weak: sessions/account-enumeration
    if (!(await bcrypt.compare(dto.password, keeper.password))) throw new UnauthorizedException('Wrong password');
    return { access_token: this.jwt.sign({ sub: keeper.id, role: keeper.role }) };
  }
}
