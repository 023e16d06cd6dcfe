# Debian's own PostgreSQL, as `npm start` uses it.
FROM debian:bookworm-slim
RUN apt-get update && apt-get install -y --no-install-recommends postgresql && rm -rf /var/lib/apt/lists/*
USER postgres
ENV PATH=/usr/lib/postgresql/15/bin:$PATH PGDATA=/var/lib/postgresql/zonula
VOLUME /var/lib/postgresql/zonula
EXPOSE 5432
COPY container/postgres.sh /usr/local/bin/zonula-postgres
CMD ["sh", "/usr/local/bin/zonula-postgres"]
