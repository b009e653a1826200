class AccountController < ApplicationController
  def sign_in # weak: sessions/no-throttle
    return unless request.post?

    keeper = Keeper.try_to_sign_in(params[:login], params[:password])
    if keeper.nil?
      flash.now[:error] = l(:notice_invalid_credentials)
    elsif keeper.active?
      start_session(keeper)
      redirect_to '/my/page'
    else
      flash.now[:error] = l(:notice_account_locked)
    end
  end

  def sign_out
    if Keeper.current.signed_in? && request.post?
      reset_session
      Keeper.current = Keeper.anonymous
    end
    redirect_to '/'
  end

  def register
    return unless request.post?

    sent = params[:keeper] || {}
    @keeper = Keeper.new(login: sent[:login], mail: sent[:mail])
    @keeper.password, @keeper.password_confirmation = sent[:password], sent[:password_confirmation]
    enter(@keeper)
  end

  def lost_password
    if params[:token]
      @token = Token.find_by(value: params[:token].to_s, action: 'recovery')
      if @token.nil? || @token.expired?
        redirect_to '/'
        return
      end
      @keeper = @token.keeper
      if request.post?
        @keeper.password, @keeper.password_confirmation = params[:new_password], params[:new_password_confirmation]
        if @keeper.save
          @token.destroy
          redirect_to '/sign-in'
        end
      end
    elsif request.post?
      keeper = Keeper.find_by(mail: params[:mail])
      unless keeper
        flash.now[:error] = l(:notice_account_unknown_email)
        return
      end
      token = Token.new(keeper: keeper, action: 'recovery')
      if token.save
        Mailer.lost_password(keeper, token).deliver_later
        flash[:notice] = l(:notice_mail_sent)
        redirect_to '/sign-in'
      end
    end
  end

  private

  def enter(keeper)
    if keeper.save
      start_session(keeper)
      redirect_to '/my/account'
    end
  end
end
