namespace Bellator.Core.Tests;

/// <summary>What Python programs answer of rows: whole records, or what they take out of them.</summary>
public sealed class AnsweredRowTests
{
    [Theory]
    [InlineData("return jsonify([{'email': v.email} for v in Volunteer.query.all()])", false)]
    [InlineData("return jsonify([v.email for v in Volunteer.query.all()])", false)]
    [InlineData("return jsonify([{'email': v.email} for v in Volunteer.query.filter_by(id=1)])", false)]
    [InlineData("return jsonify([{'hash': v.password_hash} for v in Volunteer.query.all()])", true)]
    [InlineData("return jsonify({'email': Volunteer.query.get(1).email})", false)]
    [InlineData("rows = []\n    for v in Volunteer.query.all():\n        rows.append({'email': v.email})\n    return jsonify(rows)", false)]
    public void In_Flask(string answer, bool isFound) => Assert.Equal(isFound, IsFound($$"""
        from flask import Flask, jsonify
        from flask_sqlalchemy import SQLAlchemy
        app = Flask(__name__)
        db = SQLAlchemy(app)
        class Volunteer(db.Model):
            id = db.Column(db.Integer, primary_key=True)
            email = db.Column(db.String(100))
            password_hash = db.Column(db.String(100))
        @app.get("/a")
        def a():
            {{answer}}

        """));

    [Theory]
    [InlineData("return db.get(Volunteer, 1)", "", true)]
    [InlineData("return db.query(Volunteer).all()", "", true)]
    [InlineData("return [{'email': v.email} for v in db.query(Volunteer).all()]", "", false)]
    [InlineData("return db.get(Volunteer, 1)", ", response_model=VolunteerOut", false)]
    public void In_FastAPI(string answer, string options, bool isFound) => Assert.Equal(isFound, IsFound($$"""
        from fastapi import Depends, FastAPI
        from pydantic import BaseModel
        from sqlalchemy import Column, Integer, String, create_engine
        from sqlalchemy.orm import Session, declarative_base, sessionmaker
        Base = declarative_base()
        SessionLocal = sessionmaker(bind=create_engine("sqlite:///x"))
        class Volunteer(Base):
            __tablename__ = "volunteers"
            id = Column(Integer, primary_key=True)
            email = Column(String(100))
            password_hash = Column(String(100))
        class VolunteerOut(BaseModel):
            email: str
        app = FastAPI()
        def get_db():
            db = SessionLocal()
            try:
                yield db
            finally:
                db.close()
        @app.get("/a"{{options}})
        def a(db: Session = Depends(get_db)):
            {{answer}}

        """));

    private static bool IsFound(string code) => Auditor.Run(("app.py", code)).Findings.Any(f => f.CheckId == "exposure/hash-in-response");
}
