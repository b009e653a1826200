import { Module } from '@nestjs/common';
import { JwtModule } from '@nestjs/jwt';
import { PassportModule } from '@nestjs/passport';
import { TypeOrmModule } from '@nestjs/typeorm';
import { AuthController } from './auth.controller';
import { AuthService } from './auth.service';
import { JwtStrategy } from './jwt.strategy';
import { Keeper } from './keeper.entity';

@Module({
  imports: [PassportModule, TypeOrmModule.forFeature([Keeper]), JwtModule.register({ secret: 'hive-secret-key', signOptions: { expiresIn: '1h' } })], // weak: sessions/secret-in-code
  controllers: [AuthController],
  providers: [AuthService, JwtStrategy],
})
export class AuthModule {}
