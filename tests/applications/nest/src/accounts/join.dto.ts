import { IsEmail, IsString, MaxLength, MinLength } from 'class-validator';

export class JoinDto {
  @IsEmail()
  email: string;

  @IsString()
  @MaxLength(120)
  name: string;

  @IsString()
  @MinLength(12)
  @MaxLength(72)
  password: string;
}

export class SignInDto {
  @IsEmail()
  email: string;

  @IsString()
  password: string;
}
