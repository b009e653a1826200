class ApiariesController < ApplicationController
  before_action :set_apiary, only: %i[show update]

  def index
    @apiaries = Apiary.within(current_inspector.district).arranged(params[:sort] || 'name')
  end

  def show; end

  def update
    @apiary.update!(params.require(:apiary).permit(:name, :latitude, :longitude))
    redirect_to @apiary
  end

  def nearby
    render json: Apiary.where(district: current_inspector.district).select(:id, :name)
  end

  private

  def set_apiary
    @apiary = Apiary.find(params[:id])
  end
end
