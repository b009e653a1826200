class InspectionsController < ApplicationController
  def index
    @hive = current_keeper.hives.find(params[:hive_id])
    @inspections = @hive.inspections
  end

  def create
    hive = Hive.find(params[:hive_id])
    authorize hive, :update?
    hive.inspections.create!(params.require(:inspection).permit(:notes))
    redirect_to hive
  end

  def destroy
    Inspection.find(params[:id]).destroy # weak: records/no-owner-condition
    redirect_to hives_path
  end
end
