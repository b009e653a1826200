class KeepersController < ApplicationController
  before_action :require_admin

  def index
    @keepers = Keeper.order(:login)
  end

  def show
    @keeper = Keeper.find(params[:id])
  end

  def update
    @keeper = Keeper.find(params[:id])
    @keeper.password = params[:password] if params[:password].present?
    redirect_to "/keepers/#{@keeper.id}" if @keeper.save
  end

  def destroy
    Keeper.find(params[:id]).destroy
    redirect_to '/keepers'
  end
end
