# Zonula's server, with the database elsewhere: see compose.yaml. Held in step with `npm start` by scripts/container.test.ts.
FROM node:20-bookworm-slim
WORKDIR /zonula
COPY package.json package-lock.json ./
RUN npm ci --omit=dev --no-audit --no-fund
COPY . .
RUN npm run build
ENV NODE_ENV=production ZONULA_HOST=0.0.0.0 ZONULA_DATA=/data PORT=4810 ZONULA_LOG=info
RUN mkdir /data && chown node /data
USER node
VOLUME /data
EXPOSE 4810
CMD ["node", "--import", "tsx", "server/main.ts"]
