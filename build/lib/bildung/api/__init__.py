"""FastAPI routers and Pydantic schemas: translate, call one service, translate back."""
