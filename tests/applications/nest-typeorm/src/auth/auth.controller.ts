import { Body, Controller, Get, Post, Request, UseGuards } from '@nestjs/common';
import { AuthService } from './auth.service';
import { JoinDto, SignInDto } from './dto';
import { JwtAuthGuard } from './jwt-auth.guard';

@Controller('auth')
export class AuthController {
  constructor(private auth: AuthService) {}

  @Post('join')
  join(@Body() dto: JoinDto) {
    return this.auth.join(dto); // weak: exposure/hash-in-response
  }

  @Post('sign-in')
  signIn(@Body() dto: SignInDto) { // weak: sessions/no-throttle
    return this.auth.signIn(dto);
  }

  @UseGuards(JwtAuthGuard)
  @Get('me')
  me(@Request() req) {
    return req.user;
  }
}
