class RegistrationsController < ApplicationController
  skip_before_action :require_keeper

  def new
    @keeper = Keeper.new
  end

  def create
    @keeper = Keeper.new(keeper_params)
    if @keeper.save
      reset_session
      session[:keeper_id] = @keeper.id
      redirect_to hives_path
    else
      render :new, status: :unprocessable_entity
    end
  end

  private

  def keeper_params
    params.require(:keeper).permit(:name, :email, :password, :password_confirmation)
  end
end
