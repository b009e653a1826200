class Api::KeepersController < ApplicationController
  def index
    render json: Keeper.order(:name).select(:id, :name)
  end

  def show
    render json: Keeper.find(params[:id]) # weak: exposure/hash-in-response
  end
end
