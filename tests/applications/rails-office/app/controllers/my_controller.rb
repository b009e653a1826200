class MyController < ApplicationController
  before_action :require_login

  def page
    @apiaries = Apiary.where(keeper_id: Keeper.current.id)
  end

  def account
    @keeper = Keeper.current
    if request.put? && @keeper.update(params.require(:keeper).permit(:mail, :login))
      redirect_to '/my/account'
    end
  end

  def password
    @keeper = Keeper.current
    return unless request.post?

    if !@keeper.check_password?(params[:password])
      flash.now[:error] = l(:notice_wrong_password)
    else
      @keeper.password, @keeper.password_confirmation = params[:new_password], params[:new_password_confirmation]
      redirect_to '/my/account' if @keeper.save
    end
  end
end
