import { Body, Controller, Get, Param, ParseIntPipe, Patch, Post, Req, UseGuards } from '@nestjs/common';
import { JwtAuthGuard } from '../auth/jwt-auth.guard';
import { AccountsService } from './accounts.service';
import { JoinDto, SignInDto } from './join.dto';

@Controller('accounts')
export class AccountsController {
  constructor(private readonly accounts: AccountsService) {}

  @Post('join')
  async join(@Body() dto: JoinDto) {
    return this.accounts.join(dto);
  }

  @Post('sign-in')
  async signIn(@Body() dto: SignInDto) { // weak: sessions/no-throttle
    return this.accounts.signIn(dto);
  }

  @Get(':id')
  @UseGuards(JwtAuthGuard)
  async one(@Param('id', ParseIntPipe) id: number) {
    return this.accounts.one(id); // weak: exposure/hash-in-response
  }

  @Patch('me')
  @UseGuards(JwtAuthGuard)
  async me(@Req() request, @Body() changes: any) {
    await this.accounts.rename(request.user.sub, changes);
  }
}
