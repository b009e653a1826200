class SessionsController < ApplicationController
  skip_before_action :require_keeper, only: :create

  def create # weak: sessions/no-throttle
    keeper = Keeper.find_by(email: params[:email].to_s.downcase)
    if keeper&.authenticate(params[:password])
      reset_session
      session[:keeper_id] = keeper.id
      redirect_to hives_path
    else
      flash.now[:alert] = "These details fit no account."
      render :new, status: :unprocessable_entity
    end
  end

  def destroy
    reset_session
    redirect_to root_path
  end
end
