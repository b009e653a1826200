import { IsEmail, IsString, Length } from 'class-validator';

export class JoinDto {
  @IsEmail() email: string;
  @IsString() @Length(10, 64) password: string;
  phone?: string;
}

export class SignInDto {
  @IsEmail() email: string;
  @IsString() password: string;
}
