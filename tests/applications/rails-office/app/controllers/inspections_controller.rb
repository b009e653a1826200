class InspectionsController < ApplicationController
  before_action :require_login

  def index
    @inspections = Inspection.where("finding LIKE '%#{params[:text]}%'") # weak: injection/sql
  end

  def show
    @inspection = Inspection.find(params[:id])
  end

  def create
    Inspection.create(apiary_id: params[:apiary_id], finding: params[:finding])
    redirect_to '/inspections'
  end

  def destroy
    Inspection.find(params[:id]).destroy
    redirect_to '/inspections'
  end
end
